/** Where the library's entries have their sources, for what is tested or measured without a build. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const library = new URL('../packages/taxeon/', import.meta.url);
const { exports } = JSON.parse(readFileSync(new URL('package.json', library), 'utf8'));

/** As a bundler takes them: `taxeon/irc` is `src/platforms/irc/index.ts`. */
export const sources = Object.entries(exports).flatMap(([entry, { default: built }]) =>
  built === undefined
    ? []
    : [
        {
          find: new RegExp(`^taxeon${entry.slice(1)}$`),
          replacement: fileURLToPath(new URL(sourceOf(built), library)),
        },
      ],
);

/** What is built lies as its sources do. */
function sourceOf(built) {
  return built.replace('./dist/', './src/').replace(/\.js$/, '.ts');
}
