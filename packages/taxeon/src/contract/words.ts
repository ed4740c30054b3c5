/** What a message is put together from, in one language. */
import type { Expectation } from './expectation.js';

/** Pieces of a message in one language. */
export interface Words {
  /** BCP 47. */
  readonly locale: string;
  /** `a, b or c`; `a, b and c`. */
  list(words: readonly string[], joined: 'or' | 'and'): string;
  number(value: number): string;
  /** A length of time to at most two units, rounded up. */
  duration(ms: number): string;
  /** A moment, in an IANA time zone. */
  datetime(at: Date | number, timeZone: string): string;
  /** What an argument takes. */
  expected(expected: Expectation): string;
  /** A text of the library by its key, such as a code; said in English where it is absent or gives nothing. */
  text?(key: string, values: Readonly<Record<string, unknown>>): string | undefined;
}
