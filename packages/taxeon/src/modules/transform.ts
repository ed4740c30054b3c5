/** What leaves the types out of TypeScript: an optional package, since a bot in JavaScript does without. */
import { createRequire } from 'node:module';

type Transform = typeof import('oxc-transform').transformSync;

let found: Transform | undefined | 'not looked for' = 'not looked for';

/** Nothing where the package is not installed. */
export function transformer(): Transform | undefined {
  if (found === 'not looked for') {
    try {
      found = (createRequire(import.meta.url)('oxc-transform') as typeof import('oxc-transform')).transformSync;
    } catch {
      found = undefined;
    }
  }
  return found;
}
