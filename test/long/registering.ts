/** Rounds of registering, while the platform fails and processes are killed. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import {
  emptyRegistrar,
  type Fault,
  injectFaults,
  randomFaults,
  runUntil,
  standInRegistrar,
  virtualClock,
} from '@taxeon/testing';
import { command, createCommandLayer, memoryStore } from 'taxeon';
import { type HeldCommand, PlatformError } from 'taxeon/platform';
import { manifestOf, register } from 'taxeon/registration';
import { silentLog } from '../support/oddmere.js';
import { script, start } from '../support/programs.js';

import { inFolder, must, pick, type Round } from './round.js';

const registrarFaults: readonly Fault[] = [
  { kind: 'hang' },
  { kind: 'hang', done: true },
  { kind: 'fail', error: new PlatformError('platform.unreachable', 'no') },
  { kind: 'fail', error: new PlatformError('platform.slowed', 'no', { retryAfterMs: 8000 }) },
  { kind: 'lose' },
  { kind: 'delay', ms: 4000 },
];

/** Registering one catalogue after the other while the platform fails: in the end it holds what is declared. */
export const registering: Round = async (random) => {
  const clock = virtualClock(1_000_000);
  let state = emptyRegistrar;
  const registrar = standInRegistrar({
    guilds: ['oddmere', 'workbench'],
    tokens: { demo: ['look', 'register'] },
    token: 'demo',
    clock,
    marks: random() < 0.5,
    state: {
      read: () => state,
      write(next) {
        state = next;
      },
    },
  });
  await registrar.create(
    'everywhere',
    { id: 'theirs', name: 'lamp', description: 'Theirs', where: 'anywhere' },
    'another tool',
  );
  let share = 0;
  injectFaults(registrar, (call) => randomFaults({ random, share, faults: registrarFaults })(call, []), clock);
  const store = memoryStore({ clock });
  let failures = 0;
  const names = ['borrow', 'return', 'shelf', 'induct', 'fine', 'announce'];
  const scopes = ['everywhere', 'stand-in/oddmere', 'stand-in/workbench'] as const;
  for (let release = 0; release < 4; release++) {
    const commands = names
      .filter(() => random() < 0.7)
      .map((name) =>
        command({
          name,
          description: `Does ${name}, ${Math.floor(random() * 3)}`,
          scope: pick(random, scopes),
          run: () => name,
        }),
      );
    const manifest = manifestOf(createCommandLayer({ commands, log: silentLog }));
    const options = { store, clock, removeLeftOver: true, skipUnchanged: random() < 0.5 };
    share = 0.25;
    await runUntil(clock, register(manifest, registrar, options)).catch(() => {
      failures += 1;
    });
    share = 0;
    for (let run = 0; run < 4; run++) {
      const { left } = await runUntil(clock, register(manifest, registrar, options));
      for (const { at } of left) clock.advance(Math.max(0, at - clock.now()));
    }
    const held = Object.entries(state.held).flatMap(([scope, all]: [string, readonly HeldCommand[]]) =>
      all.map(({ form, by }) => `${by} ${scope} ${form.name}: ${form.description}`),
    );
    const wanted = [
      'another tool everywhere lamp: Theirs',
      ...manifest.commands.map(
        ({ name, description, guilds }) =>
          `taxeon ${guilds.length === 0 ? 'everywhere' : guilds[0]?.replace('stand-in/', 'guild ')} ${name}: ${description}`,
      ),
    ];
    must(held.sort().join('\n') === wanted.sort().join('\n'), 'the platform does not hold what is declared', {
      held,
      wanted,
    });
  }
  return `4 releases, ${failures} runs that failed first`;
};

/** A process that registers is killed at random moments and begun anew: nothing is there twice, and nothing is missing. */
export function killed(kills: number): Round {
  return (random) =>
    inFolder(async (folder) => {
      const [path, registry] = [join(folder, 'store.db'), join(folder, 'registry.json')];
      for (let kill = 0; kill < kills; kill++) {
        const { child, finished } = start(process.execPath, [script('registering.js'), path, registry, 'alone']);
        await new Promise((done) => setTimeout(done, 50 + random() * 700));
        child.kill('SIGKILL');
        await finished;
      }
      const { out, err } = await start(process.execPath, [script('registering.js'), path, registry, 'alone']).finished;
      must(err === '', 'registering failed:', err);
      const held = JSON.parse(readFileSync(registry, 'utf8')).held.everywhere as readonly HeldCommand[];
      const names = held.map(({ form }) => form.name).sort();
      must(new Set(names).size === names.length && names.length === 8, 'the platform holds', names);
      return `${kills} kills, then ${JSON.parse(out).created} of 8 created`;
    });
}
