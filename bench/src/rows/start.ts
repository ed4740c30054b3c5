/** Starting cold: whole processes, against an empty one. */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { spreadOf } from '../measure/compare.js';
import type { Figure, Row } from '../measure/row.js';

const ROUNDS = 15;
const library = dirname(createRequire(import.meta.url).resolve('taxeon/package.json'));
const cli = join(library, 'bin', 'taxeon.js');

const config = (edit: number) => `
import { arg, command, createCommandLayer } from 'taxeon';
import { createStandIn } from 'taxeon/stand-in';
import { defineConfig } from 'taxeon/testing';

interface Fine {
  readonly pence: number;
}

const owed = ({ pence }: Fine): string => \`\${pence} pence, edit ${edit}.\`;

const fine = command({
  name: 'fine',
  description: 'Charge a late return',
  args: { pence: arg.integer({ min: 1, max: 500 }) },
  run: ({ args }) => owed(args),
});

const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  permissions: ['fine'],
  people: [{ id: 'ines', name: 'Ines' }],
  guilds: [
    {
      id: 'oddmere',
      name: 'Oddmere Tool Library',
      owner: 'ines',
      channels: ['counter'],
      roles: [{ name: 'steward', rank: 30, permissions: ['fine'] }],
      members: { mallet: ['steward'], ines: ['steward'] },
    },
  ],
};

export default defineConfig({
  open: ({ clock }) => ({
    layer: createCommandLayer({ commands: [fine], prefixes: ['!'], clock }),
    platform: createStandIn(world, { clock }),
  }),
});
`;

/** In milliseconds. */
function run(args: readonly string[], cwd: string): number {
  const start = process.hrtime.bigint();
  const { status, stderr } = spawnSync(process.execPath, args, { cwd, encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
  return Number(process.hrtime.bigint() - start) / 1e6;
}

/** Of a process over an empty one, in a folder that has the library. */
function overEmpty(args: readonly string[], prepare: (folder: string, round: number) => void): Figure {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-start-'));
  try {
    mkdirSync(join(folder, 'node_modules'));
    symlinkSync(library, join(folder, 'node_modules', 'taxeon'));
    writeFileSync(join(folder, 'package.json'), '{ "type": "module" }');
    writeFileSync(join(folder, 'empty.js'), '');
    writeFileSync(join(folder, 'import.js'), "import 'taxeon';");
    const own: number[] = [];
    const empty: number[] = [];
    for (let round = 0; round <= ROUNDS; round++) {
      prepare(folder, round);
      const [ownMs, emptyMs] = [run(args, folder), run(['empty.js'], folder)];
      // The first reads the files from the disk.
      if (round === 0) continue;
      own.push(ownMs);
      empty.push(emptyMs);
    }
    const ratio = spreadOf(own.map((ms, index) => ms / (empty[index] as number)));
    return { ...ratio, oursNs: spreadOf(own).value * 1e6, yardstickNs: spreadOf(empty).value * 1e6 };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}

export const start: readonly Row[] = [
  {
    name: 'import',
    what: 'a process that imports the library, over an empty one',
    goal: 1.5,
    unit: '×',
    measure: () => overEmpty(['import.js'], () => undefined),
  },
  {
    name: 'explain',
    what: '`taxeon explain` with a small TypeScript configuration that was edited a moment ago, over an empty process',
    goal: 2.5,
    unit: '×',
    why: 'Node.js 20 loads TypeScript by hooks in a thread of its own, whose start alone takes half of an empty process.',
    measure: () =>
      overEmpty([cli, 'explain', '!fine 5', '--as', 'ines'], (folder, round) =>
        writeFileSync(join(folder, 'taxeon.config.ts'), config(round)),
      ),
  },
];
