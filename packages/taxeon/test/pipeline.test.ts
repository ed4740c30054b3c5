import { existsSync, readFileSync } from 'node:fs';
import { runUntil, standIn, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import {
  type Arg,
  type AroundHook,
  arg,
  type CommandLayer,
  type CommandOrGroup,
  command,
  createCommandLayer,
  type GuildSettings,
  group,
  guildSettings,
  type LayerOptions,
  type Member,
  memoryStore,
  type Outcome,
  plainText,
  type RequirementBuilder,
  refuse,
  type Store,
} from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { emptyDirectory, type Input, type Platform } from 'taxeon/platform';
import { explain, stageNames } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, sceneOf, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';
import { layerThrough } from '../src/layer/layer.js';
import { inWords } from '../src/pipeline/in-words.js';
import { stages } from '../src/pipeline/stages.js';

const docs = new URL('../../../docs/architecture.md', import.meta.url);

/** The table of the stages, as docs/architecture.md has it. */
function tableOf(all: typeof stages): string {
  const rows = all.map(({ name }, index) => {
    const { does, stopsWith } = inWords[name];
    const codes = stopsWith.map((code) => (code.includes(' ') ? code : `\`${code}\``));
    return `| ${index + 1} | [${name}](../packages/taxeon/src/pipeline/${name}.ts) | ${does} | ${codes.join(', ')} |`;
  });
  return ['| # | stage | does | stops with |', '|---|---|---|---|', ...rows].join('\n');
}

describe('the stages', () => {
  test('stand in docs/architecture.md as they are', async () => {
    const [before = '', , behind = ''] = readFileSync(docs, 'utf8').split(
      /<!-- (?:stages from here on|end of stages) -->/,
    );
    await expect(
      `${before}<!-- stages from here on -->\n\n${tableOf(stages)}\n\n<!-- end of stages -->${behind}`,
    ).toMatchFileSnapshot(docs.pathname);
  });

  test('and every other file that docs/architecture.md names is there', () => {
    const named = [...readFileSync(docs, 'utf8').matchAll(/\]\((\.\.\/[^)]+)\)/g)].map(([, path = '']) => path);
    expect(named.length).toBeGreaterThan(30);
    expect(named.filter((path) => !existsSync(new URL(path, docs)))).toEqual([]);
  });

  test('are eleven, in the order of the contract', () => {
    expect(stageNames).toEqual(stages.map(({ name }) => name));
    expect(stageNames.join(' ')).toBe('intake match resolve reach access read standing limits run reply settle');
  });

  const fine = command({
    name: 'fine',
    description: 'Charge',
    in: 'guild',
    args: { who: arg.member() },
    requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
    cooldowns: { user: '1m' },
    run: () => 'Charged.',
  });
  /** Who types it where, what refuses it there, and the stage that does. */
  const refusing = [
    ['reach', 'ines', 'direct', '!fine wren', 'place.wrong'],
    ['access', 'wren', 'oddmere', '!fine pim', 'permission.caller'],
    ['standing', 'ines', 'oddmere', '!fine odalys', 'permission.rank'],
    ['limits', 'ines', 'oddmere', '!fine wren', 'cooldown.active'],
  ] as const;
  test.each(refusing)('%s can be taken out of all of it', async (name, person, place, text, code) => {
    const codes: string[] = [];
    for (const through of [stages, stages.filter((stage) => stage.name !== name)]) {
      const clock = virtualClock(startOfAfternoon);
      const platform = standIn(oddmereData().world, { clock });
      const layer = layerThrough({ commands: [fine], prefixes: ['!'], clock, log: silentLog }, through);
      const timed: string[][] = [];
      for (const status of ['completed', 'refused', 'invalid'] as const) {
        layer.on(status, ({ stagesMs }) => void timed.push(Object.keys(stagesMs())));
      }
      const input = () => platform.typed({ person, place, text });
      if (name === 'limits') await layer.handle(input(), platform);
      const explained = await explain(layer, input(), platform);
      const outcome = await layer.handle(input(), platform, { trace: true });
      codes.push(codeOf(outcome));
      const names = through.map((stage) => stage.name);
      const trace = outcome.status === 'ignored' ? undefined : outcome.trace;
      expect(trace?.stages.map((stage) => stage.name)).toEqual(names);
      expect(explained.stages.map((stage) => stage.name)).toEqual(names);
      expect(timed.at(-1)?.every((stage) => names.includes(stage as (typeof names)[number]))).toBe(true);
      expect(timed.at(-1)?.includes(name)).toBe(names.includes(name));
      expect(tableOf(through).includes(`| [${name}]`)).toBe(names.includes(name));
    }
    expect(codes[0]).toBe(code);
    expect(codes[1]).not.toBe(code);
  });
});

describe('explain says what handle then does', () => {
  const run = () => 'done';
  const described = { description: 'Something', run };
  const around: AroundHook = (_call, next) => next();
  const commands: readonly CommandOrGroup[] = [
    command({ ...described, name: 'shelf', aliases: ['what'], args: { kind: arg.text({ optional: true }) } }),
    command({
      ...described,
      name: 'fine',
      aliases: ['charge'],
      args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }), note: arg.tail({ optional: true }) },
      requires: ({ caller, bot }) => [caller.can('fine'), caller.outranks('who'), bot.can('give-badges')],
      cooldowns: { user: '2 in 1m', guild: '4 in 10m' },
      around,
    }),
    command({ ...described, name: 'announce', in: 'guild', running: { guild: 1 }, cooldowns: { everyone: '1m' } }),
    command({ ...described, name: 'note', surfaces: ['text'], args: { text: arg.tail() } }),
    group({
      name: 'overdue',
      aliases: ['late'],
      description: 'Late tools',
      requires: ({ caller }) => [caller.can('remind')],
      cooldowns: { user: '2 in 1m' },
      commands: [
        command({ ...described, name: 'list' }),
        command({ ...described, name: 'remind', args: { who: arg.member() } }),
      ],
    }),
  ];

  const rule = fc.record({
    command: fc.constantFrom('shelf', 'fine', 'overdue', 'overdue.list', 'announce'),
    verdict: fc.constantFrom('grant' as const, 'deny' as const),
    member: fc.constantFrom('ines', 'wren', 'pim'),
  });
  const settings: fc.Arbitrary<GuildSettings> = fc.record(
    {
      off: fc.subarray(['shelf', 'fine', 'overdue', 'overdue.list']),
      rules: fc.array(rule, { maxLength: 3 }),
      prefixes: fc.subarray(['?', '!', 'mallet'], { minLength: 1 }),
      locale: fc.constantFrom('en', 'pl'),
    },
    { requiredKeys: [] },
  );
  const word = fc.constantFrom(
    ...['shelf', 'what', 'fine', 'charge', 'announce', 'note', 'overdue', 'late', 'list', 'remind', 'shlef', 'anvil'],
    ...['wren', 'odalys', 'ines', '5', '501', '10abc', '"wren', 'garden', '--page', 'overdue list', 'late remind wren'],
  );
  const begin = fc.constantFrom('!', '!', '!', '?', 'mallet ', '@mallet ', '', '! ', '!!!');
  const line = fc
    .tuple(begin, fc.array(word, { minLength: 1, maxLength: 4 }))
    .map(([prefix, words]) => prefix + words.join(' '));
  const right = fc.constantFrom('!fine wren 5', '!charge pim 50 late', '!announce', '!overdue list');
  const said = fc.record({
    person: fc.constantFrom('ines', 'wren', 'pim', 'odalys', 'mallet'),
    place: fc.constantFrom('oddmere', 'oddmere', 'oddmere', 'direct', 'console'),
    text: fc.oneof(line, right),
  });
  const invoked = fc.record({
    person: fc.constantFrom('ines', 'wren', 'pim', 'odalys'),
    place: fc.constantFrom('oddmere', 'oddmere', 'direct'),
    path: fc.array(word, { minLength: 1, maxLength: 2 }).map((words) => words.join(' ').split(' ')),
    options: fc.dictionary(fc.constantFrom('who', 'pence', 'kind', 'text', 'odd'), word, { noNullPrototype: true }),
  });
  const doing = fc.oneof(said, said, invoked);
  const hooks = fc.record(
    {
      onUnknown: fc.constantFrom<NonNullable<LayerOptions['onUnknown']>>(
        () => undefined,
        (name) => (name === 'anvil' ? 'It is heavy.' : undefined),
      ),
      mentionIsPrefix: fc.boolean(),
      prefixInDirect: fc.constantFrom('required' as const, 'optional' as const),
    },
    { requiredKeys: [] },
  );

  /** What an outcome says, as an explanation says it. */
  function gistOf(outcome: Outcome) {
    if (outcome.status === 'ignored')
      return { status: outcome.status, command: null, args: null, code: null, message: null };
    const { status, command: name = null, args = null, reply } = outcome;
    const message = status === 'completed' || reply === undefined ? null : plainText(reply.notice);
    return {
      status: status === 'completed' ? 'runs' : status,
      command: name,
      args,
      code: 'code' in outcome ? outcome.code : null,
      message,
    };
  }

  test('for random settings, callers and inputs, limits nearly used up, and a layer that closes', async () => {
    const statuses = new Set<string>();
    await fc.assert(
      fc.asyncProperty(
        settings,
        hooks,
        fc.array(doing, { minLength: 1, maxLength: 12 }),
        fc.boolean(),
        async (decided, own, all, closes) => {
          const clock = virtualClock(startOfAfternoon);
          const platform = standIn(oddmereData().world, { clock });
          const layer: CommandLayer = createCommandLayer({
            commands,
            prefixes: ['!'],
            settings: guildSettings({ guilds: { 'stand-in/oddmere': decided } }),
            clock,
            log: silentLog,
            damping: 'off',
            ...own,
          });
          for (const [index, one] of all.entries()) {
            if (closes && index === all.length - 1) void layer.close();
            const input = 'text' in one ? platform.typed(one) : platform.invoked(one);
            const { status, command: name, args, code, message } = await explain(layer, input, platform);
            const outcome = await layer.handle(input, platform);
            statuses.add('code' in outcome ? outcome.code : outcome.status);
            // What `onUnknown` would say is known only once it was asked.
            if (status === 'runs' && name === null) {
              expect(['completed', 'command.unknown']).toContain(codeOf(outcome));
            } else expect({ status, command: name, args, code, message }).toEqual(gistOf(outcome));
            // A second delivery of it is known to both.
            if (outcome.status !== 'ignored' && !closes) {
              expect((await explain(layer, input, platform)).status).toBe('ignored');
            }
          }
        },
      ),
      { numRuns: 400 },
    );
    for (const code of [
      'completed',
      'ignored',
      'cooldown.active',
      'command.unavailable',
      'layer.closing',
      'place.wrong',
    ])
      expect(statuses).toContain(code);
  });

  test('also of what is asked, of answers and of what is said yes to, under settings that change meanwhile', async () => {
    const asks: readonly CommandOrGroup[] = [
      command({
        ...described,
        name: 'fine',
        whenMissing: 'ask',
        args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }) },
        requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
        confirm: ({ who, pence }) => `Charge ${who.name} ${pence}p?`,
        cooldowns: { user: '3 in 10m' },
      }),
      command({ ...described, name: 'lamp', confirm: 'Really?' }),
    ];
    const said = fc.record({
      person: fc.constantFrom('ines', 'ines', 'odalys', 'wren'),
      text: fc.constantFrom(
        ...['!fine', '!fine wren', '!fine wren 5', '!fine pim', '!fine 10abc', '!lamp', '!lamp'],
        ...['wren', 'pim', 'ines', '5', '501', 'yes', 'yes', 'yes', 'no', 'stop', 'perhaps', '!fine odalys 5', 'shelf'],
      ),
      off: fc.constantFrom(undefined, undefined, undefined, [], ['lamp'], ['fine']),
    });
    const statuses = new Set<string>();
    await fc.assert(
      fc.asyncProperty(fc.array(said, { minLength: 2, maxLength: 14 }), async (all) => {
        const clock = virtualClock(startOfAfternoon);
        const platform = standIn(oddmereData().world, { clock });
        const book = guildSettings({ store: memoryStore({ clock }), log: silentLog });
        const layer = createCommandLayer({
          ...{ commands: asks, prefixes: ['!'], settings: book, clock, log: silentLog, damping: 'off' },
          asking: askInChat(),
        });
        for (const { person, text, off } of all) {
          if (off !== undefined) await book.change('stand-in/oddmere', (now) => ({ ...now, off }));
          const input = platform.typed({ person, place: 'oddmere', text });
          const { status, command: name, args, code, message } = await explain(layer, input, platform);
          const outcome = await layer.handle(input, platform);
          statuses.add('code' in outcome ? outcome.code : outcome.status);
          expect({ status, command: name, args, code, message }).toEqual(gistOf(outcome));
        }
        await layer.close({ within: '1s' });
      }),
      { numRuns: 300 },
    );
    for (const code of ['completed', 'waiting', 'answer.stopped', 'command.unavailable', 'permission.rank', 'ignored'])
      expect(statuses).toContain(code);
  });
});

describe('what one decision knows, all that follow know', () => {
  const place = (guild: string) =>
    ({ kind: 'guild', guild: { id: guild, name: guild }, channel: { id: `${guild}/c`, name: 'c' } }) as const;
  const ines: Member = {
    ...{ kind: 'member' as const, id: 'ines', name: 'Ines', rank: 1 },
    ...{ roles: [], permissions: new Set<string>(), ownsGuild: false },
  };
  const platform: Platform = {
    name: 'chat',
    capabilities: { privateReplies: 'never', eventIds: true },
    directory: emptyDirectory,
    deliver: async () => undefined,
    serve: () => Promise.reject(new Error('not served')),
  };
  const line = (guild: string, text: string, id: string): Input => ({
    ...{ surface: 'text' as const, caller: ines, place: place(guild), at: Date.now() },
    ...{ text, id },
  });

  test.each<[string, GuildSettings]>([
    ['is off', { off: ['lamp'] }],
    ['is denied', { rules: [{ command: 'lamp', member: 'ines', verdict: 'deny' }] }],
  ])(
    'a command that %s does not run, however long the store takes and whoever is heard meanwhile',
    async (_, settings) => {
      const lamp = command({ name: 'lamp', description: 'Light', in: 'guild', run: () => 'The lamp is lit.' });
      const store = memoryStore();
      let release = () => {};
      const slow = new Promise<void>((resolve) => {
        release = resolve;
      });
      const slowly: Store = {
        ...store,
        async compareAndSet(key, ...rest) {
          if (key.startsWith('events/')) await slow;
          return store.compareAndSet(key, ...rest);
        },
      };
      const layer = createCommandLayer({
        ...{ commands: [lamp], prefixes: ['!'], log: silentLog, store: slowly, repeats: 'store', patience: '60s' },
        settings: guildSettings({ store, guilds: { 'chat/oddmere': settings } }),
      });
      const pending = layer.handle(line('oddmere', '!lamp', 'e1'), platform);
      // More guilds than are kept in memory.
      for (let n = 0; n < 20_500; n++) await layer.handle(line(`g${n}`, 'good morning', `chat ${n}`), platform);
      release();
      expect(codeOf(await pending)).toMatch(/^(command\.unavailable|permission\.caller)$/);
    },
  );

  test('a place that is taken is free as soon as the handler has ended, though its reply never arrives', async () => {
    const clock = virtualClock(startOfAfternoon);
    const stocktake = command({
      ...{ name: 'stocktake', description: 'Count', in: 'guild', running: { guild: 1 } },
      cooldowns: { user: { allow: '1 in 1h', charge: 'completed' } },
      run: ({ inputId }) => (inputId === 'e2' ? 'Counted.' : refuse('library.closed', 'The shelves are locked.')),
    });
    const layer = createCommandLayer({ commands: [stocktake], prefixes: ['!'], clock, log: silentLog });
    const hung: Platform = { ...platform, deliver: () => new Promise(() => undefined) };
    const first = layer.handle(line('oddmere', '!stocktake', 'e1'), hung);
    const second = await layer.handle(line('oddmere', '!stocktake', 'e2'), platform);
    expect(codeOf(second)).toBe('completed');
    expect(await runUntil(clock, first)).toMatchObject({ code: 'library.closed', delivery: { delivered: false } });
  });

  test('an example reads as it is shown, for who reads it', async () => {
    const run = () => 'Done.';
    const tool = arg.choice(['hedge trimmer', 'drill']);
    const lend = command({ name: 'lend', description: 'Lend', args: { tool, days: arg.integer() }, run });
    const charge = (name: string, orSelf: boolean) =>
      command({
        ...{ name, description: 'Charge', args: { who: arg.member() }, run },
        requires: ({ caller }) => [caller.outranks('who', { orSelf })],
      });
    const here = await sceneOf([lend, charge('fine', false), charge('thank', true)]);
    const shown = async (by: string, line: string) => {
      const { posts } = await here.types(by, line);
      return /Example: (.*)/.exec(posts.map(({ notice }) => plainText(notice)).join('\n'))?.[1];
    };
    const example = await shown('ines', '!lend');
    expect(example).toBe('!lend hedge trimmer 10');
    expect(codeOf((await here.types('ines', example ?? '')).outcome)).toBe('completed');
    expect(await shown('ines', '!fine')).toBeUndefined();
    expect(codeOf((await here.types('ines', (await shown('ines', '!thank')) ?? '')).outcome)).toBe('completed');
  });

  test('a group’s overview shows what its reader may run here', async () => {
    const one = (name: string, more: object = {}) =>
      command({ name, description: name, run: () => 'Done.', ...more } as never);
    const shed = group({
      ...{ name: 'shed', description: 'The shed' },
      commands: [
        ...[one('open'), one('close'), one('audit', { surfaces: ['console'] })],
        one('sell', {
          requires: ({ caller }: RequirementBuilder<Readonly<Record<string, Arg<unknown>>>>) => [caller.can('sell')],
        }),
      ],
    });
    const guilds = { 'stand-in/oddmere': { off: ['shed.close'] } };
    const here = await sceneOf([shed], { settings: guildSettings({ store: memoryStore(), guilds, log: silentLog }) });
    const { posts } = await here.types('ines', '!shed');
    expect(posts.map(({ notice }) => plainText(notice))).toEqual(['shed\nThe shed\n  !shed open: open']);
  });
});
