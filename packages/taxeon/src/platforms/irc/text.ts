/** Text as it may stand in an IRC message. */
import { plainMarkup, withoutPings } from '../../replies/markup.js';

const nicks = /[\p{L}\p{N}_[\]{}\\`|^-]+/gu;

/** Without formatting codes, and with a character that nobody sees in each nick that must not ring. */
export function ircText(text: string, mustNotRing: (nick: string) => boolean): string {
  return withoutPings(plainMarkup(text), nicks, (word) => !mustNotRing(word));
}

/** Colours, bold and the like, as clients send them. */
const formatting =
  // biome-ignore lint/suspicious/noControlCharactersInRegex: they are what IRC formats with.
  /\x03(?:\d{1,2}(?:,\d{1,2})?)?|\x04(?:[\da-f]{6}(?:,[\da-f]{6})?)?|[\x02\x0f\x11\x16\x1d-\x1f]/gi;

export function withoutFormatting(text: string): string {
  return text.replace(formatting, '');
}
