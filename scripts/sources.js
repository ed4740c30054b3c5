/** Where the packages' entries have their sources, for what is tested or measured without a build. */
import { entriesOf, packages } from './packages.js';

/** As a bundler takes them: `@taxeon/irc` is `packages/irc/src/index.ts`. */
export const sources = packages
  .flatMap(entriesOf)
  .map(({ entry, file }) => ({ find: new RegExp(`^${entry}$`), replacement: file }));
