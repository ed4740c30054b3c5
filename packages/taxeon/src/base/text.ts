/** Making text that somebody typed safe to show again, and comparing names. */

/** The longest piece of a person's own words that a reply repeats, in UTF-16 code units. */
const ECHO_LENGTH = 40;

/**
 * A person's own words, fit to stand in a reply: control, direction-changing and invisible
 * characters gone, white space folded, mention signs broken with a word joiner, shortened.
 */
export function echo(text: string, longest = ECHO_LENGTH): string {
  const head = text.length > longest * 4 ? text.slice(0, longest * 4) : text;
  const plain = head
    .replace(/\s+/gu, ' ')
    .replace(/[\p{Cc}\p{Cf}\p{Cs}\p{Co}\p{Cn}]/gu, '')
    .replace(/[@#<>&]/g, '$&\u2060')
    .replace(/[`*_~|]/g, '\u02cb')
    .trim();
  if (plain.length <= longest && head.length === text.length) return plain;
  return `${plain.slice(0, longest).replace(/[\uD800-\uDBFF]$/, '')}…`;
}

const ASCII = /^[\0-\x7f]*$/;

/**
 * The form under which names are compared: NFKC and lower case, without characters that nobody sees.
 * ASCII takes a fast path.
 */
export function foldName(name: string): string {
  return ASCII.test(name)
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
