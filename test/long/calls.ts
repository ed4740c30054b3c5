/** Rounds of calls, while platforms and stores fail and the layer closes. */

import { type Fault, injectFaults, randomFaults, runUntil } from '@taxeon/testing';
import { type Call, type CommandOrGroup, command, createCommandLayer, memoryStore, type Outcome, refuse } from 'taxeon';
import { PlatformError } from 'taxeon/platform';
import { codeOf, liveIn, oddmere, sceneOf, silentLog } from '../support/oddmere.js';

import { must, pick, type Round, tick } from './round.js';

const lost = () => new PlatformError('platform.unreachable', 'The connection was lost', { mayHaveArrived: true });

const platformFaults: readonly Fault[] = [
  { kind: 'hang' },
  { kind: 'hang', done: true },
  { kind: 'fail' },
  { kind: 'fail', at: 'once' },
  { kind: 'fail', error: new PlatformError('platform.unreachable', 'no') },
  { kind: 'fail', error: new PlatformError('platform.slowed', 'no', { retryAfterMs: 3000 }) },
  { kind: 'fail', error: new PlatformError('platform.forbidden', 'no') },
  { kind: 'fail', error: lost() },
  { kind: 'lose' },
  { kind: 'delay', ms: 900 },
];

const storeFaults: readonly Fault[] = [
  { kind: 'hang' },
  { kind: 'hang', done: true },
  { kind: 'fail' },
  { kind: 'fail', at: 'once' },
  { kind: 'lose' },
  { kind: 'lie', answer: undefined },
  { kind: 'delay', ms: 100 },
];

const said = ['deliver', 'hold', 'edit', 'remove', 'typing', 'tell', 'post', 'removeInput'];

/** People call commands of every sort, while platform and store fail at random and the clock steps. */
export function conversation(inputs: number): Round {
  return async (random) => {
    const ran = new Map<string, number>();
    const result = (call: Call) => {
      const id = call.inputId ?? '';
      ran.set(id, (ran.get(id) ?? 0) + 1);
      return `the result of ${id}`;
    };
    const waits = (ms: number) => new Promise((done) => void clock().after(ms, () => done(undefined)));
    const described = { description: 'Something' };
    const commands: CommandOrGroup[] = [
      command({ ...described, name: 'plain', run: (call) => result(call as Call) }),
      command({ ...described, name: 'private', visibleTo: 'caller', run: (call) => result(call as Call) }),
      command({
        ...described,
        name: 'slow',
        running: { guild: 2 },
        cooldowns: { user: { allow: '3 in 1m', charge: 'completed' } },
        async run(call) {
          await waits(Math.floor(random() * 6000));
          call.progress(0.5, 'Counting');
          await waits(Math.floor(random() * 3000));
          return random() < 0.3 ? refuse('not.now', 'Not now') : result(call as Call);
        },
      }),
      command({
        ...described,
        name: 'chatty',
        async run(call) {
          const first = await call.reply('one moment');
          await call.tell(call.caller as never, 'in private');
          await first.edit('still a moment');
          return { body: result(call as Call), expires: '20s' as const };
        },
      }),
      command({
        ...described,
        name: 'stuck',
        timeout: '5s',
        running: { user: 1 },
        run: () => new Promise<never>(() => {}),
      }),
    ];
    let store = memoryStore();
    const scene = await oddmere(({ clock: own }) => {
      store = memoryStore({ clock: own });
      return createCommandLayer({ commands, prefixes: ['!'], clock: own, store, damping: 'off', log: silentLog });
    });
    const clock = () => scene.clock;
    let share = 0.15;
    const faults = (all: readonly Fault[], among: (call: string) => boolean) => (call: string) =>
      randomFaults({ random, share, faults: all, among })(call, []);
    injectFaults(
      scene.platform,
      faults(platformFaults, (call) => said.includes(call)),
      scene.clock,
    );
    injectFaults(
      store,
      faults(storeFaults, (call) => call !== 'live' && call !== 'close'),
      scene.clock,
    );
    const outcomes: Outcome[] = [];
    const before = scene.clock.now();
    for (let count = 0; count < inputs; count += 8) {
      if (random() < 0.1) scene.clock.advance(-3_600_000);
      const some = Array.from({ length: 8 }, () => {
        const person = pick(random, ['wren', 'ines', 'tobias', 'odalys']);
        const name = pick(random, ['plain', 'private', 'slow', 'chatty', 'stuck']);
        return random() < 0.5 ? scene.types(person, `!${name}`) : scene.invokes(person, name);
      });
      for (const { outcome, input } of await runUntil(scene.clock, Promise.all(some))) {
        outcomes.push(outcome);
        const id = input.id ?? '';
        must((ran.get(id) ?? 0) <= 1, 'a handler ran twice for', id);
        // What was taken away again does not count; what has gone by itself does.
        const shown = scene.platform.posts.filter(
          ({ notice, at, goneAt = Number.POSITIVE_INFINITY }) =>
            notice.body === `the result of ${id}` && (goneAt > scene.clock.now() || goneAt === at + 20_000),
        ).length;
        must(shown <= 1, `a result was shown ${shown} times:`, id);
        const delivery = outcome.status === 'ignored' ? undefined : outcome.delivery;
        if (outcome.status === 'completed' && ran.get(id) === 1) {
          if (delivery?.delivered === true) must(shown === 1, 'a result was told as delivered, and is not there:', id);
          if (delivery?.delivered === false && delivery.arrived === 'no') must(shown === 0, 'a result is there:', id);
        }
      }
      scene.clock.advance(2000);
    }
    // Once all is well again and time has passed, nothing is left.
    share = 0;
    for (let minute = 0; minute < 15; minute++) {
      scene.clock.advance(60_000);
      await tick();
    }
    must((await liveIn(store)).length === 0, 'places or uses are left', await liveIn(store));
    const by = (status: string) => outcomes.filter((outcome) => outcome.status === status).length;
    const undelivered = outcomes.filter((one) => one.status !== 'ignored' && one.delivery?.delivered === false).length;
    const minutes = Math.round((scene.clock.now() - before) / 60_000);
    return `${inputs} inputs: ${by('completed')} completed, ${by('refused')} refused, ${by('failed')} failed; ${undelivered} not surely delivered; ${minutes} minutes of the clock`;
  };
}

/** Many calls run while the layer closes, and something hangs. */
export function closing(calls: number): Round {
  return async (random) => {
    const waits = command({
      name: 'wait',
      description: 'Wait',
      running: { everyone: calls },
      run: () =>
        new Promise<string>((done) => void scene.clock.after(Math.floor(random() * 20_000), () => done('over'))),
    });
    const store = memoryStore();
    const scene = await sceneOf([waits], { store, log: silentLog, damping: 'off' });
    const all = Array.from({ length: calls }, () => scene.types(pick(random, ['wren', 'ines']), '!wait'));
    await tick();
    const hanging = pick(random, ['deliver', 'giveBack', 'nothing']);
    injectFaults(scene.platform, (call) => (call === hanging ? { kind: 'hang' } : undefined), scene.clock);
    injectFaults(store, (call) => (call === hanging ? { kind: 'hang' } : undefined), scene.clock);
    const before = scene.clock.now();
    const within = 1 + Math.floor(random() * 12);
    const { aborted } = await runUntil(scene.clock, scene.layer.close({ within: { ms: within * 1000 } }));
    must(scene.clock.now() - before <= within * 1000, 'closing took longer than it was given', within);
    const outcomes = await runUntil(scene.clock, Promise.all(all));
    const given = outcomes.filter(({ outcome }) => codeOf(outcome) === 'handler.timeout').length;
    must(given === aborted, 'how many were given up', { given, aborted });
    return `${calls} running calls, ${aborted} given up, ${hanging} hung`;
  };
}

/** A store that is down in one of four ways, for each policy. */
export const outages: Round = async (random) => {
  const faults: readonly Fault[] = [
    { kind: 'fail' },
    { kind: 'fail', at: 'once' },
    { kind: 'hang' },
    { kind: 'lie', answer: pick(random, [undefined, null, {}, { granted: 'yes' }, 7]) },
  ];
  for (const outage of ['refuse', 'allow'] as const) {
    for (const fault of faults) {
      const store = memoryStore();
      const lamp = command({ name: 'lamp', description: 'Light', cooldowns: { user: '1m' }, run: () => 'lit' });
      const scene = await sceneOf([lamp], { store, outage, log: silentLog });
      injectFaults(store, () => fault);
      for (let n = 0; n < 5; n++) {
        const { outcome } = await runUntil(scene.clock, scene.invokes('wren', 'lamp'));
        const expected = outage === 'allow' ? 'completed' : 'store.unavailable';
        must(codeOf(outcome) === expected, `with ${outage}, a store that meets ${fault.kind} gives`, codeOf(outcome));
      }
    }
  }
  return '8 ways of a store that is down';
};
