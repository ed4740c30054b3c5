/**
 * Rounds of faults at random, the same for the same seed: each throws where something does not hold, and tells what it
 * did otherwise. `npm run soak` plays them for a while, `npm run test:long` in full.
 */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import {
  type Call,
  type CommandOrGroup,
  command,
  createCommandLayer,
  type HeldCommand,
  type Limit,
  manifestOf,
  memoryStore,
  type Outcome,
  PlatformError,
  refuse,
  register,
  type Store,
} from 'taxeon';
import { fileStore } from 'taxeon/file-store';
import { emptyRegistrar, standInRegistrar } from 'taxeon/stand-in';
import { type Fault, injectFaults, randomFaults, runUntil, virtualClock } from 'taxeon/testing';
import { codeOf, liveIn, oddmere, sceneOf, silentLog, startOfAfternoon } from '../support/oddmere.js';
import { script, start } from '../support/programs.js';

export type Round = (random: () => number) => Promise<string>;

function must(holds: boolean, what: string, told: unknown = ''): void {
  if (!holds) throw new Error(`${what} ${typeof told === 'string' ? told : JSON.stringify(told)}`);
}

const pick = <T>(random: () => number, all: readonly T[]): T => all[Math.floor(random() * all.length)] as T;
const tick = () => new Promise((done) => setTimeout(done, 0));

function inFolder<T>(act: (folder: string) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-long-'));
  return act(folder).finally(() => rmSync(folder, { recursive: true, force: true }));
}

/** A store against a plain list of times, with a clock that steps both ways. */
export function agreement(operations: number): Round {
  return (random) =>
    inFolder(async (folder) => {
      let refused = 0;
      for (const name of ['memory', 'file'] as const) {
        const clock = virtualClock(startOfAfternoon);
        const open = (): Store =>
          // Without the elapsed time, which the list of times does not know.
          name === 'memory'
            ? memoryStore({ clock: { now: clock.now } })
            : fileStore({ path: join(folder, 'store.db'), clock });
        let store = open();
        const limits: Limit[] = [1, 3, 7].map((uses) => ({ id: `of ${uses}`, uses, windowMs: 100 * uses }));
        const lists = new Map<string, number[]>();
        let now = clock.now();
        let wall = now;
        let latest = now;
        for (let done = 0; done < operations; done++) {
          if (random() < 0.3) clock.advance(Math.floor(random() * 150) - (random() < 0.2 ? 400 : 20));
          if (random() < 0.0005) clock.advance((random() < 0.5 ? 1 : -1) * 365 * 86_400_000);
          // A process ends, and another opens the file.
          if (name === 'file' && random() < 0.002) {
            await store.close();
            store = open();
          }
          const step = clock.now() - wall;
          wall = clock.now();
          now = name === 'memory' ? now + Math.max(0, step) : wall;
          const limit = pick(random, limits);
          const key = pick(random, ['wren', 'ines', 'tobias']);
          const at = `${limit.id} ${key}`;
          const list = (lists.get(at) ?? []).map((time) => (Math.floor(time) > now ? now : time));
          lists.set(at, list);
          const cost = 1 + Math.floor(random() * 2);
          const verdict = await store.acquire([limit], [key], [cost]);
          const live = list.filter((time) => Math.floor(time) > now - limit.windowMs);
          const taken = Math.min(cost, limit.uses);
          // What had run out once, by a clock that was ahead, may be forgotten.
          latest = Math.max(latest, now);
          const sure = live.filter((time) => Math.floor(time) > latest - limit.windowMs);
          const isRoom = (verdict.granted ? sure : live).length + taken <= limit.uses;
          must(verdict.granted === isRoom, `${name} and the list disagree`, { verdict, live, sure, now });
          if (verdict.granted) {
            for (let use = 0; use < taken; use++) list.push(verdict.at);
            if (random() < 0.2) {
              await store.giveBack([{ limit, key, cost, at: verdict.at }]);
              lists.set(
                at,
                list.filter((time) => time !== verdict.at),
              );
            }
          } else {
            refused += 1;
            must(verdict.retryAfterMs <= limit.windowMs, 'a wait is longer than its window', verdict);
          }
        }
        await store.close();
      }
      return `${2 * operations} operations, ${refused} refused`;
    });
}

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
    'global',
    { id: 'theirs', name: 'lamp', description: 'Theirs', where: 'anywhere' },
    'another tool',
  );
  let share = 0;
  injectFaults(registrar, (call) => randomFaults({ random, share, faults: registrarFaults })(call, []), clock);
  const store = memoryStore({ clock });
  let failures = 0;
  const names = ['borrow', 'return', 'shelf', 'induct', 'fine', 'announce'];
  const scopes = ['global', 'stand-in/oddmere', 'stand-in/workbench'] as const;
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
      'another tool global lamp: Theirs',
      ...manifest.commands.map(
        ({ name, description, guilds }) =>
          `taxeon ${guilds.length === 0 ? 'global' : guilds[0]?.replace('stand-in/', 'guild ')} ${name}: ${description}`,
      ),
    ];
    must(held.sort().join('\n') === wanted.sort().join('\n'), 'the platform does not hold what is declared', {
      held,
      wanted,
    });
  }
  return `4 releases, ${failures} runs that failed first`;
};

/** Processes on one file, some of which are killed, are never granted too much. */
export function processes(kills: number): Round {
  return (random) =>
    inFolder(async (folder) => {
      const path = join(folder, 'hammered.db');
      const [uses, windowMs] = [25, 200];
      fileStore({ path }).close();
      const stopAt = Date.now() + 2000 + kills * 100;
      const args = [script('hammer.js'), path, String(stopAt), String(uses), String(windowMs)];
      const begun = Array.from({ length: 4 }, () => start(process.execPath, args));
      for (let kill = 0; kill < kills; kill++) {
        await new Promise((done) => setTimeout(done, 100 + random() * 200));
        const victim = pick(random, begun);
        victim.child.kill('SIGKILL');
        begun.push(start(process.execPath, args));
      }
      const finished = await Promise.all(begun.map((one) => one.finished));
      const grants = finished
        .flatMap(({ out }) => [...out.matchAll(/grant ([\d.]+)\n/g)].map(([, at]) => Math.floor(Number(at))))
        .sort((a, b) => a - b);
      for (const [index, at] of grants.entries()) {
        const earlier = grants[index - uses];
        must(earlier === undefined || at - earlier >= windowMs, 'too many were granted', { at, earlier });
      }
      must(
        finished.every(({ err }) => err === ''),
        'a process failed:',
        finished
          .map(({ err }) => err)
          .join('')
          .slice(0, 500),
      );
      return `${begun.length} processes, ${kills} kills, ${grants.length} grants`;
    });
}

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
      const held = JSON.parse(readFileSync(registry, 'utf8')).held.global as readonly HeldCommand[];
      const names = held.map(({ form }) => form.name).sort();
      must(new Set(names).size === names.length && names.length === 8, 'the platform holds', names);
      return `${kills} kills, then ${JSON.parse(out).created} of 8 created`;
    });
}

/** What a crowd took of the heap is given back. */
export function crowds(people: number): Round {
  return async () => {
    setFlagsFromString('--expose-gc');
    const collect = runInNewContext('gc') as () => void;
    const clock = virtualClock(startOfAfternoon);
    const store = memoryStore({ clock });
    const limit: Limit = { id: 'irc/lamp/user', uses: 3, windowMs: 60_000 };
    const few = Array.from({ length: 10 }, (_, n) => `few ${n}`);
    const heap = () => {
      collect();
      const { heapUsed, arrayBuffers } = process.memoryUsage();
      return heapUsed + arrayBuffers;
    };
    const before = heap();
    for (let n = 0; n < people; n++) store.acquire([limit], [`person ${n}`]);
    const full = heap() - before;
    for (let n = 0; n < people; n++) {
      clock.advance(60_000);
      store.acquire([limit], [few[n % few.length] as string]);
    }
    const left = heap() - before;
    must(left < 2_000_000 + full / 20, 'the heap is not given back:', { full, left });
    return `${people} people took ${Math.round(full / 1e6)} MB, ${Math.round(left / 1e6)} MB stayed`;
  };
}

/** Those of which many are played in a minute. */
export const short: Readonly<Record<string, Round>> = {
  agreement: agreement(3000),
  conversation: conversation(200),
  closing: closing(500),
  outages,
  registering,
  processes: processes(3),
  killed: killed(3),
  crowds: crowds(50_000),
};
