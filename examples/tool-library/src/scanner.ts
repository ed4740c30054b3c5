/** The scanners at the shelves, simulated: each tool takes a moment, some are not in their place, some scanners are broken. */
import type { Clock } from 'taxeon';
import type { Scanner } from './library.js';

/** By guild id. */
export type Scanners = Readonly<Record<string, { readonly missing?: readonly string[]; readonly broken?: string }>>;

const A_TOOL_MS = 2400;

export function simulatedScanner(scanners: Scanners, clock: Clock): Scanner {
  return async (guild, { name }) => {
    const { missing = [], broken } = scanners[guild] ?? {};
    await new Promise<void>((done) => {
      if (clock.after === undefined) setTimeout(done, A_TOOL_MS);
      else clock.after(A_TOOL_MS, done);
    });
    if (broken !== undefined) throw new Error(broken);
    return !missing.includes(name);
  };
}
