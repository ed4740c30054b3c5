/** The scanners at the shelves, simulated: each tool takes a moment, some are not in their place, some scanners are broken. */
import type { Clock } from 'taxeon';
import type { Scanner } from './library.js';

/** By guild id. */
export type Scanners = Readonly<Record<string, ScannerOptions>>;

export interface ScannerOptions {
  readonly missing?: readonly string[];
  readonly broken?: string;
  /** How long one tool takes, in milliseconds; 2,400 by default. */
  readonly toolMs?: number;
}

const A_TOOL_MS = 2400;

export function simulatedScanner(scanners: Scanners, clock: Clock): Scanner {
  return async (guild, { name }) => {
    const { missing = [], broken, toolMs = A_TOOL_MS } = scanners[guild] ?? {};
    await new Promise<void>((done) => {
      if (clock.after === undefined) setTimeout(done, toolMs);
      else clock.after(toolMs, done);
    });
    if (broken !== undefined) throw new Error(broken);
    return !missing.includes(name);
  };
}
