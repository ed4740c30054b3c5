/** Commands in files: reading one anew, against starting the bot anew. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { spreadOf } from '../measure/compare.js';
import { inFolder, run } from '../measure/processes.js';
import type { Figure, Row } from '../measure/row.js';

const MODULES = 200;
const ROUNDS = 15;

const moduleText = (name: string, edit: number) => `
import { arg, command } from 'taxeon';
export default command({
  name: '${name}',
  description: 'Charge a late return',
  args: { pence: arg.integer({ min: 1, max: 500 }) },
  run: ({ args }) => \`\${args.pence} pence, edit ${edit}.\`,
});
`;

/** Loads the folder, says hello, and then reloads one file as often as it is told. */
const bot = (reloads: number) => `
import { writeFileSync } from 'node:fs';
import { createCommandLayer } from 'taxeon';
import { loadModules } from 'taxeon/modules';

const modules = await loadModules('commands');
const layer = createCommandLayer({ commands: modules.commands, prefixes: ['!'] });
await modules.open();
const text = ${JSON.stringify(moduleText('late7', 1))};
const took = [];
for (let edit = 1; edit <= ${reloads}; edit++) {
  writeFileSync('commands/late7.js', text.replace('edit 1', 'edit ' + edit * 10));
  const from = performance.now();
  const { changed } = await modules.reload();
  took.push(performance.now() - from);
  if (changed.join() !== 'late7') throw new Error('it reloaded ' + changed.join());
}
console.log(JSON.stringify(took));
process.exit(0);
`;

interface Times {
  readonly reloadMs: readonly number[];
  readonly startMs: readonly number[];
}

function measured(): Times {
  return inFolder((folder) => {
    mkdirSync(join(folder, 'commands'));
    for (let index = 0; index < MODULES; index++)
      writeFileSync(join(folder, 'commands', `late${index}.js`), moduleText(`late${index}`, 0));
    writeFileSync(join(folder, 'start.js'), bot(0));
    writeFileSync(join(folder, 'reload.js'), bot(ROUNDS + 5));
    run(['start.js'], folder);
    const startMs = Array.from({ length: ROUNDS }, () => run(['start.js'], folder).tookMs);
    // The first ones warm up what reloads.
    const reloadMs = (JSON.parse(run(['reload.js'], folder).out) as number[]).slice(5);
    return { reloadMs, startMs };
  });
}

export const modules: readonly Row[] = [
  {
    name: 'reload',
    what: `one file of ${MODULES} modules read anew while the bot runs, over starting the bot anew`,
    goal: 0.25,
    unit: '×',
    measure(): Figure {
      const { reloadMs, startMs } = measured();
      const ratio = spreadOf(reloadMs.map((ms, index) => ms / (startMs[index] as number)));
      return { ...ratio, oursNs: spreadOf(reloadMs).value * 1e6, yardstickNs: spreadOf(startMs).value * 1e6 };
    },
  },
  {
    name: 'reload-ms',
    what: 'the same, by itself',
    goal: 100,
    unit: 'ms',
    measure: () => spreadOf(measured().reloadMs),
  },
];
