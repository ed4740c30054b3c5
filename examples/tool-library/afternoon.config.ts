/** How `taxeon demo` opens this bot: with its commands in a folder of their own, so that they can be changed meanwhile. */
import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';
import { defineConfig, standIn } from '@taxeon/testing';
import { demoData } from './src/demo-data.js';
import { malletFromFolder } from './src/from-folder.js';

export default defineConfig({
  async open(given) {
    const data = demoData();
    const copy = copyOfSources();
    process.once('exit', () => rmSync(copy, { recursive: true, force: true }));
    const { layer, modules } = await malletFromFolder(data, {
      ...given,
      folder: pathToFileURL(join(copy, 'commands')),
      owners: ['stand-in/odalys'],
    });

    const edit = (from: string, to: string) => {
      const file = join(copy, 'commands/for-stewards/overdue.js');
      writeFileSync(file, readFileSync(file, 'utf8').replace(from, to));
    };
    return {
      layer,
      modules,
      platform: standIn(data.world, given),
      events: {
        'for-stewards/overdue.js is saved with a quote missing': () =>
          edit(`'Nothing is late.'`, `'Nothing is late, well done!`),
        'for-stewards/overdue.js is saved again, with the quote': () => edit('well done!', `well done!'`),
      },
    };
  },
});

/** Where they can be written to, and find the library. */
function copyOfSources(): string {
  const copy = mkdtempSync(join(tmpdir(), 'oddmere-commands-'));
  cpSync(new URL('./src/', import.meta.url), copy, { recursive: true });
  writeFileSync(join(copy, 'package.json'), JSON.stringify({ type: 'module' }));
  const library = fileURLToPath(new URL('.', import.meta.resolve('taxeon/package.json')));
  mkdirSync(join(copy, 'node_modules'));
  symlinkSync(library, join(copy, 'node_modules', 'taxeon'), 'junction');
  return copy;
}
