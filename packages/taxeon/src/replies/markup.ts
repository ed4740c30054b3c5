/**
 * Showing plain text as it stands where a platform would read markup in it. An adapter passes
 * every text of a notice through one of these, or through one of its own.
 */

/** What would break a line in two, or change how a terminal or a client shows the rest of it. */
const controls = /[\0-\x08\x0b\x0c\x0e-\x1f\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069\ufeff]/g;

/**
 * For systems that show text as it is: without control characters and changes of direction.
 *
 * @example
 * plainMarkup('tabs and \u0007 bells');
 */
export function plainMarkup(text: string): string {
  return text.replace(controls, '');
}

/**
 * For systems that read Markdown (CommonMark and its common additions): every sign that could begin markup
 * is escaped, as CommonMark section 2.4 allows for all ASCII punctuation.
 *
 * @example
 * markdownMarkup('2 * 3 * 4'); // '2 \\* 3 \\* 4'
 */
export function markdownMarkup(text: string): string {
  return plainMarkup(text)
    .replace(/[\\`*_{}[\]()<>#+\-.!|~@&:=$^"']/g, '\\$&')
    .replace(/^[ \t]+/gm, (indent) => '\u00a0'.repeat(Math.min(indent.length, 8)));
}

/**
 * For systems that read HTML or XML, in text and in quoted attributes.
 *
 * @example
 * htmlMarkup('a **bold** <claim>'); // 'a **bold** &#60;claim&#62;'
 */
export function htmlMarkup(text: string): string {
  return plainMarkup(text).replace(/[&<>"'`]/g, (sign) => `&#${sign.charCodeAt(0)};`);
}

/**
 * The text with a word joiner in every word that would ping a person.
 *
 * @example
 * withoutPings('@all, look', /@\w+/g, () => false); // '@\u2060all, look'
 */
export function withoutPings(text: string, pings: RegExp, mayPing: (ping: string) => boolean): string {
  return text.replace(pings, (ping) => (mayPing(ping) ? ping : `${ping.slice(0, 1)}\u2060${ping.slice(1)}`));
}
