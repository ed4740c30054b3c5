/** Text that is put into words only when it is known in which language. */
import type { Words } from '../contract/words.js';

/** The text of a message in a language, with moments in a time zone. */
export type Wording = (words: Words, timeZone: string) => string;

/** An answer in the caller's language; made by `say` of `messages`. */
export interface Worded {
  readonly wording: Wording;
}

export function isWorded(value: object): value is Worded {
  return 'wording' in value && typeof value.wording === 'function';
}
