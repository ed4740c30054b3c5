/** A notice as the lines of an IRC message, and what people type as plain text. */

import { type Notice, plainText } from 'taxeon';
import { plainMarkup, withoutPings } from 'taxeon/platform';
/** In bytes of UTF-8: what is left of a line of 512 once the server has put the sender and the target in front. */
export const LONGEST_LINE = 340;

/** How a notice is made into lines. */
export interface LineStyle {
  /** Whether the heading is bold. */
  readonly bold?: boolean;
  /** In bytes. */
  readonly longest?: number | undefined;
  readonly mustNotRing?: (nick: string) => boolean;
}

const BOLD = '\x02';
/** In front of what did not work. Of Latin-1, so that every terminal shows it. */
const PROBLEM = '× ';

/**
 * Lines that each fit in a message.
 *
 * @example
 * ircLines({ heading: 'Late', body: 'drill', details: ['with Wren'] }); // one line each
 */
export function ircLines(
  notice: Notice,
  { bold = false, longest = LONGEST_LINE, mustNotRing = () => false }: LineStyle = {},
): readonly string[] {
  const { heading, ...rest } = notice;
  const split = (text: string) =>
    withoutRinging(plainMarkup(text), mustNotRing)
      .split(/[\r\n]+/)
      .flatMap((line) => inParts(line, longest));
  const headings = heading === undefined ? [] : split(heading);
  const lines = [...(bold ? headings.map((line) => `${BOLD}${line}${BOLD}`) : headings), ...split(plainText(rest))];
  return notice.tone === 'problem' ? lines.map((line, index) => (index === 0 ? `${PROBLEM}${line}` : line)) : lines;
}

const nicks = /[\p{L}\p{N}_[\]{}\\`|^-]+/gu;
/** A command as people copy it, with all that follows: `!fine pim 50`, `--days 3`. */
const copied = /(?<=^|\s)(?:[!?.$%*+;>=~/\\^|-]+)[\p{L}\p{N}].*$/gmu;

/** With a character that nobody sees in each nick that must not ring, but in what is there to be copied. */
function withoutRinging(text: string, mustNotRing: (nick: string) => boolean): string {
  let quiet = '';
  let from = 0;
  const break_ = (part: string) => withoutPings(part, nicks, (word) => !mustNotRing(word));
  for (const { 0: written, index } of text.matchAll(copied)) {
    quiet += `${break_(text.slice(from, index))}${written}`;
    from = index + written.length;
  }
  return quiet + break_(text.slice(from));
}

/** Colours, bold and the like, as clients send them. */
const formatting = /\x03(?:\d{1,2}(?:,\d{1,2})?)?|\x04(?:[\da-f]{6}(?:,[\da-f]{6})?)?|[\x02\x0f\x11\x16\x1d-\x1f]/gi;

export function withoutFormatting(text: string): string {
  return text.replace(formatting, '');
}

/** A line in parts that each fit, at spaces where there are some. Linear in its length. */
function inParts(line: string, longest: number): readonly string[] {
  const parts: string[] = [];
  let part = '';
  let bytes = 0;
  let spaceAt = -1;
  for (const character of line) {
    const size = bytesOf(character.codePointAt(0) ?? 0);
    if (bytes + size > longest) {
      const end = spaceAt > 0 ? spaceAt : part.length;
      parts.push(part.slice(0, end));
      part = part.slice(end).trimStart();
      bytes = bytesIn(part);
      spaceAt = -1;
    }
    if (character === ' ') spaceAt = part.length;
    part += character;
    bytes += size;
  }
  return part.trim() === '' ? parts : [...parts, part];
}

export function bytesIn(text: string): number {
  let bytes = 0;
  for (const character of text) bytes += bytesOf(character.codePointAt(0) ?? 0);
  return bytes;
}

function bytesOf(codePoint: number): number {
  if (codePoint < 0x80) return 1;
  return codePoint < 0x800 ? 2 : codePoint < 0x1_0000 ? 3 : 4;
}
