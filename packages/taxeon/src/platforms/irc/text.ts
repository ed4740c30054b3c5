/** Text as it may stand in an IRC message. */
import { plainMarkup, withoutPings } from '../../replies/markup.js';

const nicks = /[\p{L}\p{N}_[\]{}\\`|^-]+/gu;

/** Without formatting codes, and with a character that nobody sees in each nick that must not ring. */
export function ircText(text: string, mustNotRing: (nick: string) => boolean): string {
  return withoutPings(plainMarkup(text), nicks, (word) => !mustNotRing(word));
}

/** Colours, bold and the like, as clients send them. */
const formatting = /\x03(?:\d{1,2}(?:,\d{1,2})?)?|\x04(?:[\da-f]{6}(?:,[\da-f]{6})?)?|[\x02\x0f\x11\x16\x1d-\x1f]/gi;

export function withoutFormatting(text: string): string {
  return text.replace(formatting, '');
}

/** In bytes of UTF-8: what is left of a line of 512 once the server has put the sender and the target in front. */
const LONGEST_LINE = 340;

/** A line in parts that each fit in a message, at spaces where there are some. Linear in its length. */
export function inParts(line: string): readonly string[] {
  const parts: string[] = [];
  let part = '';
  let bytes = 0;
  let spaceAt = -1;
  for (const character of line) {
    const size = bytesOf(character.codePointAt(0) ?? 0);
    if (bytes + size > LONGEST_LINE) {
      const end = spaceAt > 0 ? spaceAt : part.length;
      parts.push(part.slice(0, end));
      part = part.slice(end).trimStart();
      bytes = 0;
      for (const kept of part) bytes += bytesOf(kept.codePointAt(0) ?? 0);
      spaceAt = -1;
    }
    if (character === ' ') spaceAt = part.length;
    part += character;
    bytes += size;
  }
  return part.trim() === '' ? parts : [...parts, part];
}

function bytesOf(codePoint: number): number {
  if (codePoint < 0x80) return 1;
  return codePoint < 0x800 ? 2 : codePoint < 0x1_0000 ? 3 : 4;
}
