/** Cooldowns as a command declares them. */
import { type DurationText, durationMs } from '../base/time.js';

/** How often: `'10m'` is once in ten minutes, `'5 in 1m'` five times in a minute. */
export type Allowance = DurationText | `${number} in ${DurationText}`;

/** Whose uses are counted together. Where there is no guild, the conversation is counted. */
export type CountedBy = 'user' | 'guild';

export type Cooldowns = { readonly [By in CountedBy]?: Allowance };

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
