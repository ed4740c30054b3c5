/** Text that a person typed: its characters, making it safe to show again, and comparing names. */

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
 * visibleText('two\nlines'); // 'two lines'
 */
export function visibleText(text: string, longest = LONGEST_VISIBLE): string {
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
 * `There is no ${echoText(text)}.`;
 */
export function echoText(text: string, longest = ECHO_LENGTH): string {
  return visibleText(text, longest)
    .replace(/`/g, '\u02cb')
    .replace(/[@#<>&]|:(?=\/\/)|\.(?=\p{L})/gu, '$&\u2060');
}

/** How a person or a thing from outside is called in a sentence; by its id where its name shows nothing. */
export function calledName({ id, name }: { readonly id: string; readonly name: string }): string {
  return echoText(name) || echoText(id) || '?';
}

const ASCII = /^[\0-\x7f]*$/;
/** Normalising a tower of marks takes time that grows with its square: half a minute for a hundred thousand. */
const LONGEST_NAME = 200;

/**
 * The form under which names are compared: NFKC and lower case, without characters that nobody sees.
 * ASCII takes a fast path; of what is too long for a name, only the case is changed.
 *
 * @example
 * const named = (all: readonly Member[], name: string) => all.filter((one) => foldName(one.name) === foldName(name));
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

/** Which characters part words and which begin one. Hot path: bench/rows/calls. */
export function isSpace(unit: number): boolean {
  if (unit < 0x80) return unit === 0x20 || (unit >= 0x09 && unit <= 0x0d);
  return (
    unit === 0xa0 ||
    unit === 0x1680 ||
    (unit >= 0x2000 && unit <= 0x200a) ||
    unit === 0x2028 ||
    unit === 0x2029 ||
    unit === 0x202f ||
    unit === 0x205f ||
    unit === 0x3000
  );
}

/** Space, and what nobody sees: around words both are left out. */
export function isGap(unit: number): boolean {
  if (unit < 0x80) return unit === 0x20 || (unit >= 0x09 && unit <= 0x0d);
  return (
    unit === 0xad ||
    (unit >= 0x200b && unit <= 0x200f) ||
    (unit >= 0x202a && unit <= 0x202e) ||
    (unit >= 0x2060 && unit <= 0x206f) ||
    unit === 0xfeff ||
    isSpace(unit)
  );
}

const wordCharacter = /[\p{L}\p{N}]/u;

/** Whether a letter or digit, of any script, stands at `position`. */
export function isWordAt(text: string, position: number): boolean {
  const unit = text.charCodeAt(position);
  if (unit < 0x80) {
    return (unit >= 0x61 && unit <= 0x7a) || (unit >= 0x41 && unit <= 0x5a) || (unit >= 0x30 && unit <= 0x39);
  }
  const point = text.codePointAt(position);
  return point !== undefined && wordCharacter.test(String.fromCodePoint(point));
}

/** The signs that close what the sign at hand opens; `undefined` where it opens nothing. */
export function closersOf(unit: number): string | undefined {
  switch (unit) {
    case 0x22:
      return '"';
    case 0x27:
      return "'";
    case 0x201c: // “
    case 0x201d: // ”
      return '”';
    case 0x2018: // ‘
    case 0x2019: // ’
      return '’';
    case 0x201e: // „
      return '“”';
    case 0x201a: // ‚
      return '‘’';
    case 0xab: // «
      return '»';
    case 0xbb: // »
      return '«';
    case 0x2039: // ‹
      return '›';
    default:
      return undefined;
  }
}

export function isDigit(unit: number): boolean {
  return unit >= 0x30 && unit <= 0x39;
}

/** Of English. */
export function isLetter(unit: number): boolean {
  return (unit | 0x20) >= 0x61 && (unit | 0x20) <= 0x7a;
}

/** White space alone is nothing that anybody could read. Hot path: bench/rows/calls. */
export function isBlank(text: string): boolean {
  const first = text.charCodeAt(0);
  return !(first > 0x20 && first < 0x7f) && !/\S/u.test(text);
}

/** For sorting, by code units. */
export function compareText(one: string, other: string): number {
  return one < other ? -1 : one > other ? 1 : 0;
}

/** Two texts as one, which no other two make. */
export function joined(first: string, second: string): string {
  return `${first.length}:${first}/${second}`;
}

/** The two of `joined`; nothing of another text. */
export function joinedParts(text: string): readonly string[] {
  const at = text.indexOf(':') + 1;
  const length = Number(text.slice(0, at - 1));
  const first = text.slice(at, at + length);
  const second = text.slice(at + length + 1);
  return joined(first, second) === text ? [first, second] : [];
}

/** Whether a value is a text that says something. */
export function isSaid(value: unknown): value is string {
  return typeof value === 'string' && value.trim() !== '';
}

/** A number without an exponent, which would not be read again. */
export function inDigitsAlone(value: number): string {
  const text = String(value);
  return text.includes('e-') ? value.toFixed(20).replace(/\.?0+$/, '') : text;
}
