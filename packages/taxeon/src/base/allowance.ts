/** How often something may be, as developers write it. */
import { type DurationText, durationMs } from './time.js';

/** How often: `'10m'` is once in ten minutes, `'5 in 1m'` five times in a minute. */
export type Allowance = DurationText | `${number} in ${DurationText}`;

/** How often something may be: so many uses, in so long. */
export interface ParsedAllowance {
  readonly uses: number;
  readonly windowMs: number;
}

/** Reads an allowance; `undefined` where it does not read or allows nothing. */
export function parseAllowance(text: unknown): ParsedAllowance | undefined {
  if (typeof text !== 'string') return undefined;
  const match = /^(?:(\d{1,6}) in )?(.+)$/.exec(text);
  const uses = Number(match?.[1] ?? 1);
  const windowMs = durationMs(match?.[2]);
  return uses > 0 && windowMs !== undefined && windowMs > 0 ? { uses, windowMs } : undefined;
}

/**
 * How often something may be, as a number of uses and a length of time.
 *
 * @param what the option, for the error
 * @throws TypeError where it does not read: there is nothing that it could mean
 *
 * @example
 * allowanceOf('5 in 10s', 'deskChat, pace'); // { uses: 5, windowMs: 10_000 }
 */
export function allowanceOf(text: unknown, what: string): ParsedAllowance {
  const parsed = parseAllowance(text);
  if (parsed === undefined) throw new TypeError(`${what}: write '6 in 7s'`);
  return parsed;
}
