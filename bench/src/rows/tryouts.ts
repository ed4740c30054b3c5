/** Scripted conversations: a thousand of ten lines, in a process of their own. */
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { spreadOf } from '../measure/compare.js';
import { inFolder, library, run } from '../measure/processes.js';
import type { Row } from '../measure/row.js';

const TRYOUTS = 1000;
const ROUNDS = 5;
const command = join(library, '..', 'command', 'bin', 'taxeon.js');

const config = `
import { arg, command, createCommandLayer } from 'taxeon';
import { standIn } from '@taxeon/testing';

const world = {
  bot: { id: 'mallet', name: 'Mallet' },
  permissions: ['fine'],
  people: [{ id: 'ines', name: 'Ines' }, { id: 'wren', name: 'Wren' }],
  guilds: [{
    id: 'oddmere', name: 'Oddmere Tool Library', channels: ['counter'],
    roles: [{ name: 'steward', rank: 30, permissions: ['fine'] }],
    members: { mallet: ['steward'], ines: ['steward'], wren: [] },
  }],
};
const fine = command({
  name: 'fine',
  description: 'Charge a late return',
  args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }) },
  requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
  cooldowns: { user: '3 in 1m' },
  run: ({ args }) => args.who.name + ' owes ' + args.pence + ' pence.',
});
export default {
  open: (given) => ({
    layer: createCommandLayer({ ...given, commands: [fine], prefixes: ['!'] }),
    platform: standIn(world, given),
  }),
};
`;

/** Ten lines, of which one waits. */
const tryout = (number: number) => `tryout: Fines, ${number}
begins: 2026-05-09T13:00:00Z
lines:
${Array.from({ length: 3 }, () => line('ines', '!fine wren 50', 'status: completed, says: owes 50')).join('')}${line('ines', '!fine wren 50', 'status: refused, code: cooldown.active')}  - wait: 1m
${line('ines', '!fine wren 5000', 'status: invalid, code: argument.invalid')}${line('wren', '!fine ines 5', 'status: refused, code: permission.caller')}${line('wren', 'hello', 'status: ignored')}${line('ines', '!fine', 'status: invalid, code: argument.missing')}${line('ines', '!fine wren 5', 'status: completed')}`;

function line(person: string, types: string, expect: string): string {
  return `  - { person: ${person}, place: oddmere/counter, types: "${types}", expect: { ${expect} } }\n`;
}

export const tryouts: readonly Row[] = [
  {
    name: 'tryouts',
    what: `\`taxeon try\` with ${TRYOUTS} tryouts of ten lines, each on a bot of its own, in all`,
    goal: 5000,
    unit: 'ms',
    measure: () =>
      inFolder((folder) => {
        mkdirSync(join(folder, 'tryouts'));
        writeFileSync(join(folder, 'taxeon.config.mjs'), config);
        for (let number = 0; number < TRYOUTS; number++)
          writeFileSync(join(folder, 'tryouts', `${number}.tryout.yaml`), tryout(number));
        const took = Array.from({ length: ROUNDS }, () => {
          const { tookMs, out } = run([command, 'try', '--json'], folder);
          const { tryouts: played } = JSON.parse(out) as { tryouts: { asExpected: boolean; lines: number }[] };
          if (played.length !== TRYOUTS || played.some((one) => !one.asExpected || one.lines !== 10))
            throw new Error('a tryout did not come out as expected');
          return tookMs;
        });
        return spreadOf(took);
      }),
  },
];
