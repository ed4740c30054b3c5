/** Making text that somebody typed safe to show again, and comparing names. */

/** The longest piece of a person's own words that a reply repeats, in UTF-16 code units. */
const ECHO_LENGTH = 40;
const LONGEST_VISIBLE = 200;

/**
 * Controls, escapes, direction marks, and what nobody sees: but for joiners, which emoji and many scripts need, and the
 * letters behind a black flag, which make it a country's and are kept as the first group.
 */
const invisible = String.raw`(\u{1F3F4}[\u{E0020}-\u{E007E}]{1,6}\u{E007F})|(?![\u200C\u200D])[\p{Cc}\p{Cf}]`;
/** Half a pair of surrogates, too, and what no font shows. */
const unseen = new RegExp(`${invisible}|[\\p{Cs}\\p{Co}\\p{Cn}]`, 'gu');
/** Colours of old networks carry digits. */
const putIn = new RegExp(`\\x03(?:\\d{1,2}(?:,\\d{1,2})?)?|${invisible.replace('|', '|(?![\\t-\\r])')}`, 'gu');

/** A typed value without what a chat program puts in by itself: colours, what nobody sees, and space at the edges. */
export function withoutPutIn(typed: string): string {
  return isPlain(typed) ? typed : trimmed(typed.replace(putIn, '$1'));
}

/**
 * The same line without what is not seen or turns others around; its spaces stay.
 *
 * @example
 * withoutUnseen('a\u200Bb'); // 'ab'
 */
export function withoutUnseen(line: string): string {
  return line.replace(unseen, '$1');
}

/**
 * A text from outside on one line, without what is not seen or turns others around; shortened.
 *
 * @example
 * visible('two\nlines'); // 'two lines'
 */
export function visible(text: string, longest = LONGEST_VISIBLE): string {
  if (text.length <= longest && isPlain(text)) return text;
  const head = text.length > longest * 4 ? text.slice(0, longest * 4) : text;
  const plain = head
    .replace(/\s+/gu, ' ')
    .replace(unseen, '$1')
    // A tower of accents would cover the lines above.
    .replace(/(\p{M}{4})\p{M}+/gu, '$1')
    .replace(/^[\s\u200C\u200D]+|[\s\u200C\u200D]+$/gu, '');
  if (plain.length <= longest && head.length === text.length) return plain;
  return `${plain.slice(0, longest).replace(/[\uD800-\uDBFF]$|\s+$/, '')}…`;
}

/** Without space and joiners at the edges. A pattern would look through a long run of them once for each. */
function trimmed(text: string): string {
  let start = 0;
  let end = text.length;
  while (start < end && isEdge(text.charCodeAt(start))) start++;
  while (end > start && isEdge(text.charCodeAt(end - 1))) end--;
  return text.slice(start, end);
}

function isEdge(unit: number): boolean {
  return unit === 0x200c || unit === 0x200d || /\s/.test(String.fromCharCode(unit));
}

const SPACE = 0x20;
const LAST_PRINTABLE = 0x7e;

/** Printable ASCII on one line, with single spaces inside: most names are. Hot path: bench/rows/calls. */
function isPlain(text: string): boolean {
  let before = SPACE;
  for (let index = 0; index < text.length; index++) {
    const code = text.charCodeAt(index);
    if (code < SPACE || code > LAST_PRINTABLE || (code === SPACE && before === SPACE)) return false;
    before = code;
  }
  return before !== SPACE || text === '';
}

/**
 * A person's own words, fit to stand in a reply: visible, on one line, shortened; signs of mentions and the points of
 * links are broken with a word joiner, and it opens no block of code.
 *
 * @example
 * `There is no ${echo(text)}.`;
 */
export function echo(text: string, longest = ECHO_LENGTH): string {
  return visible(text, longest)
    .replace(/`/g, '\u02cb')
    .replace(/[@#<>&]|:(?=\/\/)|\.(?=\p{L})/gu, '$&\u2060');
}

/** How somebody or something from outside is called in a sentence; by its id where its name shows nothing. */
export function calledName({ id, name }: { readonly id: string; readonly name: string }): string {
  return echo(name) || echo(id) || '?';
}

const ASCII = /^[\0-\x7f]*$/;
/** Normalising a tower of marks takes time that grows with its square: half a minute for a hundred thousand. */
const LONGEST_NAME = 200;

/**
 * The form under which names are compared: NFKC and lower case, without characters that nobody sees.
 * ASCII takes a fast path; of what is too long for a name, only the case is changed.
 */
export function foldName(name: string): string {
  return name.length > LONGEST_NAME || ASCII.test(name)
    ? name.toLowerCase()
    : name
        .normalize('NFKC')
        .replace(/\p{Cf}/gu, '')
        .toLowerCase();
}

/** `a, b or c`. */
export function either(words: readonly string[], joined = 'or'): string {
  if (words.length < 2) return words.join('');
  return `${words.slice(0, -1).join(', ')} ${joined} ${words[words.length - 1]}`;
}
