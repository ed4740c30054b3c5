/** Starting cold: whole processes, against an empty one. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { spreadOf } from '../measure/compare.js';
import { inFolder, library, run } from '../measure/processes.js';
import type { Figure, Row } from '../measure/row.js';

const ROUNDS = 15;
const cli = join(library, '..', 'command', 'bin', 'taxeon.js');

const config = (edit: number) => `
import { arg, command, createCommandLayer } from 'taxeon';
import { defineConfig, standIn } from '@taxeon/testing';

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
    platform: standIn(world, { clock }),
  }),
});
`;

/** Of a process over an empty one, in a folder that has the library. */
function overEmpty(args: readonly string[], prepare: (folder: string, round: number) => void): Figure {
  return inFolder((folder) => {
    writeFileSync(join(folder, 'empty.js'), '');
    writeFileSync(join(folder, 'import.js'), "import 'taxeon';");
    const own: number[] = [];
    const empty: number[] = [];
    for (let round = 0; round <= ROUNDS; round++) {
      prepare(folder, round);
      const [ownMs, emptyMs] = [run(args, folder).tookMs, run(['empty.js'], folder).tookMs];
      // The first reads the files from the disk.
      if (round === 0) continue;
      own.push(ownMs);
      empty.push(emptyMs);
    }
    const ratio = spreadOf(own.map((ms, index) => ms / (empty[index] as number)));
    return { ...ratio, oursNs: spreadOf(own).value * 1e6, yardstickNs: spreadOf(empty).value * 1e6 };
  });
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
