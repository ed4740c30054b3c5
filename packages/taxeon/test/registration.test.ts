import { readFileSync } from 'node:fs';
import {
  emptyRegistrar,
  type Fault,
  injectFaults,
  type RegistrarState,
  runUntil,
  type StandInRegistrarOptions,
  standInRegistrar,
  virtualClock,
} from '@taxeon/testing';
import { Ajv2020 as Ajv } from 'ajv/dist/2020.js';
import { arg, type CommandOrGroup, command, createCommandLayer, group, memoryStore } from 'taxeon';
import {
  Conflict,
  type HeldCommand,
  PlatformError,
  type RegisteredForm,
  type Registrar,
  type RegistrationScope,
} from 'taxeon/platform';
import {
  type Difference,
  differenceTo,
  type Manifest,
  manifestOf,
  type RegisterOptions,
  RegistrationError,
  type RegistrationStep,
  register,
  scopesNamed,
} from 'taxeon/registration';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmere, sceneOf, silentLog } from '../../../test/support/oddmere.js';

const one = (name: string, more: object = {}) =>
  command({ name, description: `Does ${name}`, run: () => name, ...more });

function manifestFrom(commands: readonly CommandOrGroup[], options: object = {}): Manifest {
  return manifestOf(
    createCommandLayer({ commands, scopes: { staging: ['stand-in/workbench'] }, log: silentLog, ...options }),
  );
}

interface PlaceOptions extends Partial<StandInRegistrarOptions> {
  readonly begin?: RegistrarState;
  /** `previous` is what was held one change before. */
  readonly fault?: (call: string, scope: RegistrationScope, previous: RegistrarState) => Fault | undefined;
}

/** A place where commands are registered, on a clock that runs on by itself. */
function place({ fault, begin, ...options }: PlaceOptions = {}) {
  const clock = virtualClock(1_000_000);
  let state = begin ?? emptyRegistrar;
  let previous = state;
  const calls: string[] = [];
  const kept = {
    read: () => state,
    write(next: RegistrarState) {
      previous = state;
      state = next;
    },
  };
  const registrar = standInRegistrar({
    guilds: ['oddmere', 'workbench'],
    tokens: { demo: ['look', 'register'], looking: ['look'] },
    token: 'demo',
    clock,
    state: kept,
    ...options,
  });
  injectFaults(
    registrar,
    (call, [scope]) => {
      calls.push(call);
      return fault?.(call, scope as RegistrationScope, previous);
    },
    clock,
  );
  const names = (scope: string) => (state.held[scope] ?? []).map(({ form }) => form.name).sort();
  const run = (manifest: Manifest, more: RegisterOptions = {}) =>
    runUntil(clock, register(manifest, registrar, { clock, ...more }));
  return { clock, registrar, calls, names, run, state: () => state };
}

const states = ({ scopes }: Difference) =>
  scopes.map(({ scope, entries }) => [
    scope === 'everywhere' ? scope : scope.guild,
    entries.map(({ name, state }) => `${state} ${name}`),
  ]);

describe('the manifest', () => {
  test('is the same bytes in whichever order the commands are given, and whatever their handlers do', () => {
    const commands = (run: () => string) => [
      one('b', { run, args: { z: arg.integer(), a: arg.text({ optional: true }) } }),
      one('a', { cooldowns: { user: '20s' } }),
      group({ name: 'g', description: 'G', commands: [one('y'), one('x')] }),
    ];
    const text = (all: readonly CommandOrGroup[]) => JSON.stringify(manifestFrom(all));
    expect(text(commands(() => 'x').reverse())).toBe(text(commands(() => 'y')));
  });

  test('holds names and descriptions by language, arguments as a schema, access and scope', () => {
    const fine = one('fine', {
      scope: ['everywhere', 'staging'],
      requires: ({ caller }: never) => [(caller as { can(name: string): unknown }).can('fine')],
      args: {
        who: arg.member({ description: 'Who pays' }),
        pence: arg.integer({ min: 1, max: 500 }),
        how: arg.choice(['cash', 'card'], { default: 'cash' }),
        note: arg.text({ flag: true, optional: true, max: 100, complete: () => [] }),
        with: arg.list(arg.user(), { optional: true, max: 3 }),
      },
      localized: { pl: { name: 'kara', description: 'Ukarz', args: { who: 'Kto płaci' } } },
    });
    expect(manifestFrom([fine, one('typed', { surfaces: ['text'] })]).commands).toEqual([
      {
        id: 'fine',
        name: 'fine',
        description: 'Does fine',
        names: { pl: 'kara' },
        descriptions: { pl: 'Ukarz' },
        permissions: ['fine'],
        where: 'guild',
        arguments: {
          type: 'object',
          properties: {
            how: { type: 'string', enum: ['cash', 'card'] },
            note: { type: 'string', maxLength: 100, 'x-completes': true },
            pence: { type: 'integer', minimum: 1, maximum: 500 },
            who: {
              type: 'string',
              'x-kind': 'member',
              'x-completes': true,
              description: 'Who pays',
              'x-descriptions': { pl: 'Kto płaci' },
            },
            with: { type: 'array', items: { type: 'string', 'x-kind': 'user' }, minItems: 1, maxItems: 3 },
          },
          required: ['pence', 'who'],
          additionalProperties: false,
          'x-order': ['who', 'pence', 'how', 'note', 'with'],
        },
        everywhere: true,
        guilds: ['stand-in/workbench'],
      },
    ]);
  });

  test('registers aliases as commands where the developer chose that', () => {
    const layer = createCommandLayer({ commands: [one('borrow', { aliases: ['take'] })] });
    expect(manifestOf(layer).commands.map(({ name }) => name)).toEqual(['borrow']);
    expect(
      manifestOf(layer, { aliases: 'registered' }).commands.map(({ name, id, aliasOf }) => [name, id, aliasOf]),
    ).toEqual([
      ['borrow', 'borrow', undefined],
      ['take', 'borrow/take', 'borrow'],
    ]);
  });

  test('of the demo fits its own schema', async () => {
    const schema = JSON.parse(readFileSync(new URL('../manifest.schema.json', import.meta.url), 'utf8'));
    const validate = new Ajv({ strict: false }).compile(schema);
    const { layer } = await oddmere();
    const manifest = JSON.parse(JSON.stringify(manifestOf(layer, { aliases: 'registered' })));
    validate(manifest);
    expect(validate.errors).toBeNull();
    expect(validate({ ...manifest, version: 2 })).toBe(false);
    expect(validate({ version: 1, commands: [{ ...manifest.commands[0], where: 'everywhere' }] })).toBe(false);
    for (const { arguments: schema } of manifest.commands as { arguments?: object }[]) {
      if (schema !== undefined) expect(() => new Ajv({ strict: false }).compile(schema)).not.toThrow();
    }
  });
});

describe('a scope', () => {
  test('holds on text, too: elsewhere the command is not available', async () => {
    const scene = await sceneOf([one('act', { scope: 'staging' }), one('everywhere')], {
      scopes: { staging: ['stand-in/workbench'] },
    });
    const outcomeOf = async (...asked: Parameters<typeof scene.types>) => (await scene.types(...asked)).outcome;
    expect(codeOf(await outcomeOf('ines', '!act', 'workbench'))).toBe('completed');
    expect(await outcomeOf('ines', '!act')).toMatchObject({
      code: 'command.unavailable',
      parameters: { because: 'scope' },
    });
    expect(codeOf(await outcomeOf('ines', '!act', 'direct'))).toBe('command.unavailable');
    expect(codeOf((await scene.invokes('ines', 'act')).outcome)).toBe('command.unavailable');
    expect(codeOf((await scene.console('act')).outcome)).toBe('completed');
    expect(codeOf(await outcomeOf('ines', '!everywhere', 'direct'))).toBe('completed');
  });

  test('is named by itself, by a set, by a guild’s key, or by its id', () => {
    const layer = createCommandLayer({ commands: [], scopes: { staging: ['stand-in/workbench', 'irc/#oddmere'] } });
    const named = (name: string) => scopesNamed(layer, name, 'stand-in');
    expect(named('everywhere')).toEqual(['everywhere']);
    expect(named('staging')).toEqual([{ guild: 'workbench' }]);
    expect(named('oddmere')).toEqual([{ guild: 'oddmere' }]);
    expect(named('stand-in/everywhere')).toEqual([{ guild: 'everywhere' }]);
  });

  test('is a group’s, where its commands do not say', () => {
    const groups = group({
      name: 'g',
      description: 'G',
      scope: 'stand-in/oddmere',
      commands: [one('x'), one('y', { scope: 'everywhere' })],
    });
    expect(manifestFrom([groups]).commands).toMatchObject([
      { name: 'g', everywhere: true, guilds: ['stand-in/oddmere'] },
    ]);
  });
});

describe('the difference', () => {
  const before = manifestFrom([
    one('keep'),
    one('edit', { args: { n: arg.integer({ max: 5 }) } }),
    one('drop'),
    group({ name: 'g', description: 'G', commands: [one('x')] }),
  ]);
  const after = manifestFrom([
    one('keep', { run: () => 'another handler', cooldowns: { user: '1h' } }),
    one('edit', { description: 'Does more', args: { n: arg.integer({ max: 9 }) } }),
    one('add'),
    group({ name: 'g', description: 'G', commands: [one('x', { description: 'Other' })] }),
  ]);

  test('names what would be added, changed with its fields, what is absent, and what is the same', async () => {
    const { registrar, run } = place();
    await run(before);
    const difference = await differenceTo(after, registrar);
    expect(states(difference)).toEqual([
      ['everywhere', ['lacking add', 'leftOver drop', 'differs edit', 'differs g', 'same keep']],
    ]);
    expect(difference.scopes[0]?.entries.flatMap((entry) => (entry.state === 'differs' ? entry.fields : []))).toEqual([
      { field: 'description', registered: 'Does edit', declared: 'Does more' },
      { field: 'arguments.properties.n.maximum', registered: 5, declared: 9 },
      { field: 'commands.x.description', registered: 'Does x', declared: 'Other' },
    ]);
    expect(difference.scopes[0]?.delayMs).toBeGreaterThan(60_000);
  });

  test('shows what somebody else has registered, and leaves it alone', async () => {
    const { registrar, run, names } = place();
    await registrar.create(
      'everywhere',
      { id: 'theirs', name: 'lamp', description: 'Theirs', where: 'anywhere' },
      'another tool',
    );
    await registrar.create(
      'everywhere',
      { id: 'also', name: 'add', description: 'Theirs, too', where: 'anywhere' },
      'another tool',
    );
    expect(states(await differenceTo(after, registrar))[0]?.[1]).toEqual([
      'foreign add',
      'lacking edit',
      'lacking g',
      'lacking keep',
      'foreign lamp',
    ]);
    await run(after, { removeLeftOver: true });
    expect(names('everywhere')).toEqual(['add', 'edit', 'g', 'keep', 'lamp']);
  });

  test('warns of what people would see twice', async () => {
    const { registrar } = place();
    const { warnings } = await differenceTo(
      manifestFrom([one('act', { scope: ['everywhere', 'staging'] })]),
      registrar,
    );
    expect(warnings).toEqual([
      'act is registered everywhere and for stand-in/workbench: people there will see it twice',
    ]);
  });

  test('tells all that the platform would not take at once, with the command and the field, and nothing is registered', async () => {
    const { registrar, run, state } = place();
    const labels = Array.from({ length: 31 }, (_, index) => `label-${index}`);
    const much = manifestFrom([
      one('a-name-that-goes-on-and-on-and-on'.slice(0, 32)),
      one('wordy', {
        description: 'w'.repeat(91),
        args: { which: arg.choice(labels), [`x${'y'.repeat(28)}`]: arg.text() },
      }),
      group({ name: 'g', description: 'G', commands: [one('inner', { description: 'i'.repeat(91) })] }),
      ['h1', 'h2', 'h3', 'h4'].reduceRight<CommandOrGroup>(
        (inner, name) => group({ name, description: 'H', commands: [inner] }),
        one('in'),
      ),
    ]);
    const told = (await differenceTo(much, registrar)).problems.map(
      ({ command: name, field, problem }) => `${name}, ${field}: ${problem}`,
    );
    expect(told).toEqual([
      'a-name-that-goes-on-and-on-and-o, name: has 32 characters; the platform takes 28',
      'g inner, description: has 91 characters; the platform takes 90',
      'h1 h2 h3 h4, commands: are in 4 groups; the platform takes 3',
      'wordy, description: has 91 characters; the platform takes 90',
      `wordy, args.x${'y'.repeat(28)}: has 29 characters; the platform takes 28`,
    ]);
    await expect(run(much)).rejects.toThrow(RegistrationError);
    expect(state()).toBe(emptyRegistrar);
  });

  test('with more choices than the platform takes, it is completed while it is typed', async () => {
    const { registrar } = place();
    const labels = (count: number) => Array.from({ length: count }, (_, index) => `label-${index}`);
    const choosing = (count: number) => ({ which: arg.choice(labels(count)) });
    const manifest = manifestFrom([
      one('few', { args: choosing(30) }),
      one('many', { args: choosing(31) }),
      group({ name: 'g', description: 'G', commands: [one('inner', { args: choosing(500) })] }),
    ]);
    const { scopes, problems } = await differenceTo(manifest, registrar);
    expect(problems).toEqual([]);
    const forms = scopes.flatMap(({ entries }) => entries.flatMap((entry) => ('form' in entry ? [entry.form] : [])));
    const schemaOf = (form: RegisteredForm | undefined) => form?.arguments?.properties['which'];
    const named = (name: string) => forms.find((form) => form?.name === name);
    expect(schemaOf(named('few'))).toMatchObject({ enum: labels(30) });
    expect(schemaOf(named('many'))).toEqual({ type: 'string', 'x-completes': true });
    expect(schemaOf(named('g')?.commands?.[0])).toEqual({ type: 'string', 'x-completes': true });
  });
});

describe('carrying it out', () => {
  test('is a rename in place where the id stays', async () => {
    const { run, names, state } = place();
    await run(manifestFrom([one('lend', { id: 'lend' })]));
    const id = state().held['everywhere']?.[0]?.id;
    expect(await run(manifestFrom([one('give', { id: 'lend' })]))).toMatchObject({ created: 0, updated: 1 });
    expect([names('everywhere'), state().held['everywhere']?.[0]?.id]).toEqual([['give'], id]);
  });

  test('removes only where it is told to', async () => {
    const { run, names } = place();
    await run(manifestFrom([one('a1'), one('b1')]));
    expect(await run(manifestFrom([one('a1')]))).toMatchObject({ removed: 0, kept: 1 });
    expect(names('everywhere')).toEqual(['a1', 'b1']);
    expect(await run(manifestFrom([one('a1')]), { removeLeftOver: true })).toMatchObject({ removed: 1, kept: 0 });
    expect(names('everywhere')).toEqual(['a1']);
  });

  test('keeps a guild’s command until people see the one everywhere that takes its place', async () => {
    const { run, names, clock } = place();
    await run(manifestFrom([one('act', { scope: 'staging' })]));
    const steps: RegistrationStep[] = [];
    const options = {
      removeLeftOver: true,
      guilds: ['workbench'],
      onProgress: (step: RegistrationStep) => void steps.push(step),
    };
    await run(manifestFrom([one('act')]), options);
    expect([names('everywhere'), names('guild workbench')]).toEqual([['act'], ['act']]);
    expect(steps.at(-1)).toMatchObject({
      done: 'kept',
      name: 'act',
      note: expect.stringContaining('until people see the other one'),
    });
    clock.advance(3_600_000);
    await run(manifestFrom([one('act')]), options);
    expect([names('everywhere'), names('guild workbench')]).toEqual([['act'], []]);
  });

  test('adds in every scope before it removes in any', async () => {
    const { run, calls } = place();
    await run(manifestFrom([one('a1'), one('b1', { scope: 'stand-in/oddmere' })]));
    calls.length = 0;
    await run(manifestFrom([one('c1'), one('d1', { scope: 'stand-in/oddmere' })]), { removeLeftOver: true });
    expect(calls.filter((call) => call !== 'read' && call !== 'scopes')).toEqual([
      'create',
      'create',
      'remove',
      'remove',
    ]);
  });

  test('keeps within the platform’s rate, and tells that it waits', async () => {
    const { run, names, clock } = place();
    const steps: RegistrationStep[] = [];
    const began = clock.now();
    await run(manifestFrom(Array.from({ length: 20 }, (_, index) => one(`act-${index}`))), {
      onProgress: (step) => void steps.push(step),
    });
    expect(names('everywhere')).toHaveLength(20);
    expect(clock.now() - began).toBeGreaterThanOrEqual(15_000);
    expect(steps.filter(({ done }) => done === 'waiting').length).toBeGreaterThan(0);
    expect(steps.filter(({ done }) => done === 'created')).toHaveLength(20);
  });

  test('looks once, and changes nothing, where the manifest is the one that was registered last', async () => {
    const { run, calls } = place();
    const store = memoryStore();
    const manifest = manifestFrom([one('act')]);
    expect(await run(manifest, { store, skipUnchanged: true })).toMatchObject({ outcome: 'carried-out', created: 1 });
    calls.length = 0;
    expect(await run(manifest, { store, skipUnchanged: true })).toEqual({
      outcome: 'unchanged',
      created: 0,
      updated: 0,
      removed: 0,
      kept: 0,
      left: [],
    });
    expect(calls).toEqual(['scopes', 'read']);
    expect(
      await run(manifestFrom([one('act', { description: 'More' })]), { store, skipUnchanged: true }),
    ).toMatchObject({ updated: 1 });
  });

  test('of several at once on one store is done by one; the rest find nothing to do', async () => {
    const { registrar, clock, calls } = place();
    const store = memoryStore({ clock });
    const manifest = manifestFrom([one('a1'), one('b1')]);
    const all = await runUntil(
      clock,
      Promise.all(
        Array.from({ length: 4 }, () => register(manifest, registrar, { store, clock, skipUnchanged: true })),
      ),
    );
    expect(all.map(({ outcome }) => outcome).sort()).toEqual(['carried-out', 'unchanged', 'unchanged', 'unchanged']);
    expect(calls.filter((call) => call === 'create')).toHaveLength(2);
  });

  test('a claim whose process has died runs out', async () => {
    const { run, clock } = place();
    const store = memoryStore({ clock });
    await store.compareAndSet('registration/stand-in/claim', 0, 'dead', 90_000);
    const began = clock.now();
    expect(await run(manifestFrom([one('act')]), { store })).toMatchObject({ created: 1 });
    expect(clock.now() - began).toBeGreaterThanOrEqual(90_000);
  });

  test('killed at every single call in turn and run again, it ends as desired, with nobody ever without a command', async () => {
    const begin = manifestFrom([
      one('keep'),
      one('edit'),
      one('drop'),
      one('move', { scope: 'stand-in/oddmere' }),
      one('old', { id: 'renamed' }),
    ]);
    const desired = manifestFrom([
      one('keep'),
      one('edit', { description: 'Other' }),
      one('add'),
      one('move'),
      one('new', { id: 'renamed' }),
      one('here', { scope: 'stand-in/oddmere' }),
    ]);
    const first = place();
    await first.run(begin);
    await first.registrar.create(
      'everywhere',
      { id: 'x', name: 'foreign', description: 'Theirs', where: 'anywhere' },
      'another tool',
    );
    const options = { removeLeftOver: true, guilds: ['oddmere'] };
    const clean = place({ begin: first.state() });
    await clean.run(desired, options);
    const calls = clean.calls.length;
    const expected = [clean.names('everywhere'), clean.names('guild oddmere')];
    expect(expected).toEqual([
      ['add', 'edit', 'foreign', 'keep', 'move', 'new'],
      ['here', 'move'],
    ]);
    for (const effect of ['before', 'after'] as const) {
      for (let killedAt = 0; killedAt < calls; killedAt++) {
        let call = 0;
        let isDead = false;
        const halfway = place({
          begin: first.state(),
          fault: () => {
            if (isDead) return { kind: 'fail', error: new Error('dead') };
            if (call++ !== killedAt) return undefined;
            isDead = true;
            return effect === 'before' ? { kind: 'fail', error: new Error('killed') } : { kind: 'lose' };
          },
        });
        await halfway.run(desired, options).catch((error: Error) => error);
        for (const name of ['keep', 'edit', 'foreign']) expect(halfway.names('everywhere')).toContain(name);
        expect(halfway.names('everywhere').some((name) => name === 'old' || name === 'new')).toBe(true);
        expect(halfway.names('guild oddmere')).toContain('move');
        const again = place({ begin: halfway.state() });
        await again.run(desired, options);
        expect([again.names('everywhere'), again.names('guild oddmere')]).toEqual(expected);
      }
    }
  });
});

describe('what was registered before', () => {
  const staged = manifestFrom([one('keep'), one('act', { scope: 'staging' })]);
  const without = manifestFrom([one('keep')]);

  test.each([
    ['by the platform’s own marks', true],
    ['by the store', false],
  ])('is remembered %s, so that the last command to leave a guild is taken away there', async (_, marks) => {
    const { run, names, registrar, calls } = place({ marks });
    const store = memoryStore();
    await run(staged, { store });
    expect(states(await differenceTo(without, registrar, { store }))).toEqual([
      ['everywhere', ['same keep']],
      ['workbench', ['leftOver act']],
    ]);
    expect(await run(without, { store, removeLeftOver: true })).toMatchObject({ removed: 1 });
    expect(names('guild workbench')).toEqual([]);
    calls.length = 0;
    await run(without, { store, removeLeftOver: true });
    // Nothing of the guild's is looked at any more.
    expect(calls.filter((call) => call === 'read')).toHaveLength(3);
  });

  test('in a guild that the bot has left is forgotten', async () => {
    const first = place({ marks: false });
    const store = memoryStore();
    await first.run(staged, { store });
    const left = place({ marks: false, guilds: ['oddmere'], begin: first.state() });
    expect(await left.run(without, { store, removeLeftOver: true })).toMatchObject({ removed: 0, left: [] });
    left.calls.length = 0;
    await left.run(without, { store });
    expect(left.calls.filter((call) => call === 'read')).toHaveLength(3);
  });

  test('and was removed by somebody meanwhile is found missing at the next start', async () => {
    const { run, names, registrar } = place();
    const store = memoryStore();
    await run(staged, { store, skipUnchanged: true });
    const [held] = await registrar.read('everywhere');
    await registrar.remove('everywhere', held as HeldCommand);
    expect(await run(staged, { store, skipUnchanged: true })).toMatchObject({ outcome: 'carried-out', created: 1 });
    expect(names('everywhere')).toEqual(['keep']);
  });
});

describe('a command that moves from a guild to everywhere', () => {
  const from = manifestFrom([one('act', { scope: 'staging' })]);
  const to = manifestFrom([one('act')]);
  /** Who sees it at a moment: what is held and seen, and what was taken away and is seen still. */
  async function moved(delayMs: { everywhere: number; guild: number }) {
    const placed = place({ delay: { everywhere: { ms: delayMs.everywhere }, guild: { ms: delayMs.guild } } });
    const { clock, run, state, registrar } = placed;
    const store = memoryStore();
    await run(from, { store });
    clock.advance(Math.max(delayMs.everywhere, delayMs.guild));
    const removedAt = new Map<string, number>();
    const { remove } = registrar;
    registrar.remove = async (scope, held) => {
      await remove(scope, held);
      removedAt.set(scope === 'everywhere' ? 'everywhere' : `guild ${scope.guild}`, clock.now());
    };
    const seen = () =>
      ['everywhere', 'guild workbench'].filter((scope) => {
        const [held] = state().held[scope] ?? [];
        if (held !== undefined) return held.visibleAt <= clock.now();
        const gone = removedAt.get(scope);
        return gone !== undefined && clock.now() < gone + delayMs[scope === 'everywhere' ? 'everywhere' : 'guild'];
      });
    return { ...placed, store, seen };
  }

  test.each([
    ['later everywhere', { everywhere: 40 * 60_000, guild: 0 }],
    ['later in a guild', { everywhere: 60_000, guild: 30 * 60_000 }],
    ['as late in both', { everywhere: 60_000, guild: 60_000 }],
    ['at once', { everywhere: 0, guild: 0 }],
  ])('where changes are seen %s is seen once, and it is said what is left to do and when', async (_, delayMs) => {
    const { run, clock, seen, store, names } = await moved(delayMs);
    const options = { store, removeLeftOver: true, skipUnchanged: true };
    expect(seen()).toEqual(['guild workbench']);
    const { left } = await run(to, options);
    const began = clock.now();
    for (const { at } of left) {
      expect(at - began).toBeLessThanOrEqual(40 * 60_000);
      expect(seen()).toHaveLength(1);
      clock.advance(at - clock.now() - 1);
      // Too early, nothing is done.
      expect(await run(to, options)).toMatchObject({ created: 0, removed: 0 });
      expect(seen()).toHaveLength(1);
      clock.advance(at - clock.now());
      expect(await run(to, options)).toMatchObject({ left: [] });
    }
    clock.advance(Math.max(delayMs.everywhere, delayMs.guild));
    expect([names('everywhere'), names('guild workbench'), seen()]).toEqual([['act'], [], ['everywhere']]);
    expect(left).toHaveLength(delayMs.everywhere === delayMs.guild ? 0 : 1);
  });
});

describe('the claim', () => {
  test('is renewed while a long wait goes on, of which is told what it is for and how long', async () => {
    let asks = 0;
    const { run, clock, registrar } = place({
      fault: (call) =>
        call === 'create' && asks++ === 0
          ? { kind: 'fail', error: new PlatformError('platform.slowed', 'no', { retryAfterMs: 200_000 }) }
          : undefined,
    });
    const store = memoryStore({ clock });
    const steps: string[] = [];
    let begin = () => {};
    const waits = new Promise<void>((resolve) => {
      begin = resolve;
    });
    const onProgress = ({ note }: RegistrationStep) => {
      steps.push(note);
      begin();
    };
    const first = run(manifestFrom([one('act')]), { store, onProgress });
    const second = waits.then(() =>
      runUntil(clock, register(manifestFrom([one('act')]), registrar, { store, clock, skipUnchanged: true })),
    );
    expect([await first, await second]).toMatchObject([{ created: 1 }, { created: 0 }]);
    expect(steps).toEqual([
      'the platform asks to wait 3 minutes 20 seconds',
      'the platform asks to wait 2 minutes 50 seconds',
      'the platform asks to wait 2 minutes 20 seconds',
      'the platform asks to wait 1 minute 50 seconds',
      'the platform asks to wait 1 minute 20 seconds',
      'the platform asks to wait 50 seconds',
      'the platform asks to wait 20 seconds',
      '',
    ]);
  });

  test('what a platform says of a failure is no part of the steps: it may hold a credential', async () => {
    let asks = 0;
    const error = new PlatformError('platform.unreachable', 'GET /commands?token=a-secret-token');
    const { run } = place({ fault: () => (asks++ < 2 ? { kind: 'fail', error } : undefined) });
    const notes: string[] = [];
    await run(manifestFrom([one('act')]), { onProgress: ({ note }) => void notes.push(note) });
    expect(notes.slice(0, 2)).toEqual([
      'not reached; once more after 1 second',
      'not reached; once more after 1 second',
    ]);
  });

  test('that ran out while nobody wanted it is taken again', async () => {
    const store = memoryStore();
    const { run } = place({
      // The process was asleep, say.
      fault: (call) => {
        if (call === 'create') void store.compareAndSet(key, 1, '', 1);
        return undefined;
      },
    });
    const key = 'registration/stand-in/claim';
    expect(await run(manifestFrom([one('a1'), one('b1')]), { store })).toMatchObject({ created: 2 });
  });

  test('of another process is told while it is waited for', async () => {
    const { run, clock } = place();
    const store = memoryStore({ clock });
    await store.compareAndSet('registration/stand-in/claim', 0, 'another', 60_000);
    const notes: string[] = [];
    await run(manifestFrom([one('act')]), { store, onProgress: ({ note }) => void notes.push(note) });
    expect(notes.slice(0, 2)).toEqual([
      'another process is registering; waited for at most 10 minutes',
      'another process is registering; waited for at most 9 minutes 30 seconds',
    ]);
  });
});

describe('a platform that does not do as it should', () => {
  const manifest = manifestFrom([one('act'), one('more')]);
  const once = (fault: Fault, of = 'create') => {
    let left = 1;
    return (call: string) => (call === of && left-- > 0 ? fault : undefined);
  };
  const mended: [string, PlaceOptions['fault']][] = [
    ['is not reached', once({ kind: 'fail', error: new PlatformError('platform.unreachable', 'no') })],
    [
      'asks to wait',
      once({ kind: 'fail', error: new PlatformError('platform.slowed', 'no', { retryAfterMs: 30_000 }) }),
    ],
    ['does it and loses the answer', once({ kind: 'lose' })],
    ['is slow', once({ kind: 'delay', ms: 20_000 })],
    [
      'tells what was there before',
      (call, _, { held }) => (call === 'read' ? { kind: 'lie', answer: held['everywhere'] ?? [] } : undefined),
    ],
    ['never answers once', once({ kind: 'hang' })],
    ['never answers once, and has done it', once({ kind: 'hang', done: true })],
    ['never answers a look', once({ kind: 'hang' }, 'read')],
    ['never says where something is', once({ kind: 'hang' }, 'scopes')],
    ['was changed by somebody else meanwhile', once({ kind: 'fail', error: new Conflict('changed') })],
  ];
  test.each<[string, PlaceOptions['fault']]>([
    ['meets a conflict', once({ kind: 'fail', error: new Conflict('changed') }, 'remove')],
    ['loses the answer', once({ kind: 'lose' }, 'remove')],
    ['never answers', once({ kind: 'hang' }, 'remove')],
    ['never answers, and has done it', once({ kind: 'hang', done: true }, 'remove')],
  ])('and %s at a removal is asked again', async (_, fault) => {
    const { run, names } = place(fault === undefined ? {} : { fault });
    await run(manifest);
    expect(await run(manifestFrom([one('act')]), { removeLeftOver: true })).toMatchObject({ removed: 1, kept: 0 });
    expect(names('everywhere')).toEqual(['act']);
  });

  test.each(mended)('that %s', async (_, fault) => {
    const { run, names } = place(fault === undefined ? {} : { fault });
    await run(manifest);
    expect(names('everywhere')).toEqual(['act', 'more']);
  });

  const told: [string, PlaceOptions, Manifest, RegExp][] = [
    ['does not know the token', { token: 'wrong' }, manifest, /^The token is not known here$/],
    ['misses an authorisation', { token: 'looking' }, manifest, /has no authorisation "register"; give it that one$/],
    [
      'does not know a guild',
      {},
      manifestFrom([one('act', { scope: 'stand-in/nowhere' })]),
      /^There is no guild "nowhere", or the bot is not in it$/,
    ],
    [
      'answers with nonsense',
      { fault: () => ({ kind: 'lie', answer: { all: 'fine' } }) },
      manifest,
      /^The platform’s answer is no list of scopes$/,
    ],
    [
      'answers with nothing',
      { fault: (call) => (call === 'read' ? { kind: 'lie', answer: [undefined] } : undefined), marks: false },
      manifest,
      /is no list of commands$/,
    ],
    [
      'is never reached',
      { fault: () => ({ kind: 'fail', error: new PlatformError('platform.unreachable', 'No answer') }) },
      manifest,
      /^The platform did not take it: No answer\. What was registered so far is kept; run it again later\.$/,
    ],
    [
      'is changed all the time',
      { fault: (call) => (call === 'create' ? { kind: 'fail', error: new Conflict('changed') } : undefined) },
      manifest,
      /^everywhere: the commands are changed by somebody else all the time\./,
    ],
  ];
  test.each(told)('that %s', async (_, options, wanted, message) => {
    const { run, state } = place(options);
    await expect(run(wanted)).rejects.toThrow(message);
    expect(state()).toBe(emptyRegistrar);
  });

  test('somebody else’s change between the difference and its carrying out is not overwritten', async () => {
    const { registrar, run, state } = place();
    await run(manifestFrom([one('act')]));
    const held = state().held['everywhere']?.[0] as HeldCommand;
    let isFirst = true;
    const other: RegisteredForm = { ...held.form, description: 'Theirs, meanwhile' };
    const racing: Registrar = {
      ...registrar,
      async update(scope, seen, form) {
        if (isFirst) await registrar.update(scope, held, other);
        isFirst = false;
        return registrar.update(scope, seen, form);
      },
    };
    const seen: unknown[] = [];
    const clock = virtualClock(2_000_000);
    const watching: Registrar = {
      ...racing,
      async update(scope, at, form) {
        seen.push(at.form.description);
        return racing.update(scope, at, form);
      },
    };
    await runUntil(clock, register(manifestFrom([one('act', { description: 'Mine' })]), watching, { clock }));
    expect(seen).toEqual(['Does act', 'Theirs, meanwhile']);
  });
});

test('docs/registration.md has the words for every state of a difference', () => {
  const page = readFileSync(new URL('../../../docs/registration.md', import.meta.url), 'utf8');
  for (const word of ['lacking', 'differs', 'leftOver', 'same', 'foreign', '--now', '--remove-left-over', '--scope'])
    expect(page).toContain(word);
});
