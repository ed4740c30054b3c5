/** `npm run docs`: the guide, the reference and the playground as static pages, in site/dist. */
import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { fileURLToPath } from 'node:url';
import MiniSearch from 'minisearch';
import { build } from 'vite';
import { entriesOf, packages } from '../scripts/packages.js';
import { rendered } from './src/markdown.js';
import { referencePages, undocumented } from './src/reference.js';
import { pageOf, pages, read, root } from './src/repository.js';
import { framed } from './src/template.js';

const here = (path) => fileURLToPath(new URL(path, import.meta.url));
const made = here('./build/pages/');
rmSync(here('./build'), { recursive: true, force: true });
mkdirSync(made, { recursive: true });

const typedoc = createRequire(import.meta.url)
  .resolve('typedoc/package.json')
  .replace('package.json', 'bin/typedoc');
const entryPoints = packages.flatMap(entriesOf).flatMap(({ file }) => ['--entryPoints', file]);
execFileSync(process.execPath, [typedoc, '--options', 'typedoc.json', ...entryPoints], {
  cwd: here('.'),
  stdio: 'inherit',
});
const data = JSON.parse(readFileSync(here('./build/reference.json'), 'utf8'));
const lacking = undocumented(data);
if (lacking.length > 0) {
  console.error(lacking.join('\n'));
  process.exitCode = 1;
}

const guide = pages().map((path) => ({ page: pageOf(path), ...rendered(read(path), path) }));
const all = [...guide.map((one) => ({ ...one, found: one.sections })), ...referencePages(data)];
for (const content of all) writeFileSync(`${made}${content.page}`, framed(content));
for (const name of ['page.css', 'page.js']) cpSync(here(`./src/${name}`), `${made}${name}`);
cpSync(new URL('docs/mark.svg', root), `${made}mark.svg`);

await build({
  root: made,
  base: './',
  logLevel: 'warn',
  build: {
    outDir: here('./dist'),
    emptyOutDir: true,
    // Once for all pages.
    assetsInlineLimit: 0,
    // How long it takes is nobody's news.
    rolldownOptions: { input: all.map(({ page }) => `${made}${page}`), checks: { bundlerTimings: false } },
  },
});
cpSync(new URL('docs/screenshots/', root), here('./dist/screenshots'), { recursive: true });
cpSync(new URL('examples/playground/dist/', root), here('./dist/playground'), { recursive: true });

const search = new MiniSearch({ fields: ['heading', 'title', 'words'], storeFields: ['heading', 'page', 'title'] });
search.addAll(
  all
    .flatMap(({ page, title, found }) =>
      found
        // Every page ends in it: as a result it says nothing.
        .filter(({ heading }) => heading !== 'Try it')
        .map(({ heading, slug, words }) => ({ heading, title, page: `${page}#${slug}`, words: words.join(' ') })),
    )
    .map((one, id) => ({ id, ...one })),
);
writeFileSync(here('./dist/search.json'), JSON.stringify(search));
console.log(`${all.length} pages are in site/dist`);
