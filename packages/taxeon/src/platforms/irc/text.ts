/** Text as it may stand in an IRC message. */
import { plainMarkup, withoutPings } from '../../replies/markup.js';

const nicks = /[\p{L}\p{N}_[\]{}\\`|^-]+/gu;

/** Without formatting codes, and with a character that nobody sees in each nick that must not ring. */
export function ircText(text: string, mustNotRing: (nick: string) => boolean): string {
  return withoutPings(plainMarkup(text), nicks, (word) => !mustNotRing(word));
}
