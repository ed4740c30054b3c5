import { describe, expect, test } from 'vitest';
import { folderOf } from './support.js';

const taxeonIn = (files: Readonly<Record<string, string>>, ...args: string[]) => folderOf(files).taxeon(...args);

const config = (end: string) => `import { command, createCommandLayer } from 'taxeon';
import { standIn } from '@taxeon/testing';
const lamp = command({ name: 'lamp', description: 'Light it', run: () => 'The lamp is lit.' });
const world = { bot: { id: 'mallet', name: 'Mallet' }, people: [{ id: 'ines', name: 'Ines' }], guilds: [] };
const layer = createCommandLayer({ commands: [lamp], prefixes: ['!'] });
const platform = standIn(world);
export default ${end};
`;
const right = config('{ open: () => ({ layer, platform }) }');

describe('without a configuration', () => {
  test.each(['explain !lamp', 'access', 'check', 'register', 'register --manifest'])('%s says so', async (line) => {
    const { status, out, err } = await taxeonIn({}, ...line.split(' '));
    expect({ status, out }).toEqual({ status: 2, out: '' });
    expect(err).toMatch(
      /^taxeon: There is no taxeon\.config\.ts in this folder, so there is no bot to ask\. .*`taxeon demo`\.\n$/,
    );
  });

  test('the demo plays', async () => {
    expect((await taxeonIn({}, 'demo')).status).toBe(0);
  });
});

test.each(['ts', 'mts', 'js', 'mjs'])('a configuration called taxeon.config.%s is found', async (extension) => {
  const files = { 'package.json': '{ "type": "module" }', [`taxeon.config.${extension}`]: right };
  const { out, err } = await taxeonIn(files, 'explain', '!lamp', '--as', 'ines', '--in', 'direct');
  expect({ err, runs: out.includes('lamp would be run') }).toEqual({ err: '', runs: true });
});

test('two configurations are told', async () => {
  const files = { 'taxeon.config.mjs': right, 'taxeon.config.mts': right };
  expect((await taxeonIn(files, 'check')).err).toBe(
    'taxeon: There are taxeon.config.mts and taxeon.config.mjs in this folder; remove one, or name one with --config.\n',
  );
});

const broken: [string, string, RegExp][] = [
  ['syntax', 'const a = 1;\n\nexport default {{', /^taxeon: NAME:3 does not load: /],
  ['a throw', '\n\n\nthrow new Error("no shelf");', /^taxeon: NAME:4 does not load: no shelf\n$/],
  [
    'a package that is not there',
    "import 'oddmere-shelves/deep';",
    /^taxeon: NAME does not load: the package oddmere-shelves is not installed; npm install oddmere-shelves mends that\n$/,
  ],
  [
    'nothing exported',
    'export const a = 1;',
    /^taxeon: NAME has no default export; give it one made with defineConfig/,
  ],
  ['neither', config('{}'), /^taxeon: NAME needs either `open` or `modules`/],
  [
    'a misspelt field',
    config('{ opne: 1 }'),
    /^taxeon: NAME has a field `opne`, which there is not; there are open, modules/,
  ],
  ['an open that is none', config('{ open: 7 }'), /^taxeon: NAME has `open` that is no function/],
  [
    'a wrong registration',
    config('{ open() {}, registration: true }'),
    /^taxeon: NAME has a `registration` that is not right/,
  ],
  [
    'nothing opened',
    config('{ open: () => undefined }'),
    /^taxeon: NAME does not open its bot: `open` gives no `layer`; return \{ layer, platform \}/,
  ],
  ['no platform', config('{ open: () => ({ layer }) }'), /`open` gives no `platform`; .*as standIn\(world\) makes it/],
  ['wrong modules', config('{ open: () => ({ layer, platform, modules: [] }) }'), /`modules` that are none/],
  [
    'a wrong event',
    config('{ open: () => ({ layer, platform, events: { rain: 7 } }) }'),
    /"rain" among its events or state that is no function/,
  ],
  [
    'an open that never ends',
    config('{ open: () => new Promise(() => {}) }'),
    /^taxeon: The configuration never answers: what its `open`/,
  ],
  ['something else', config('{ open: () => ({ layer, platform, layers: [] }) }'), /`layers`, which is not known/],
];
describe.each(['taxeon.config.ts', 'taxeon.config.mjs'])('%s with', (name) => {
  test.each(broken)('%s is told in one sentence', async (_, text, expected) => {
    const { status, out, err } = await taxeonIn({ [name]: text }, 'check');
    expect({ status, out, lines: err.trimEnd().split('\n').length }).toEqual({ status: 2, out: '', lines: 1 });
    expect(err).toMatch(new RegExp(expected.source.replace('NAME', name.replaceAll('.', '\\.'))));
  });
});
