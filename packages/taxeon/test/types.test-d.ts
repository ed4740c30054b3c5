import {
  arg,
  type Command,
  command,
  createCommandLayer,
  type Duration,
  type Guild,
  type GuildActor,
  type Member,
  messages,
  type Outcome,
} from 'taxeon';
import { describe, expectTypeOf, test } from 'vitest';

const described = { description: 'Something' };

describe('arguments are inferred from the declaration', () => {
  test('required, optional, with a default', () => {
    command({
      ...described,
      name: 'induct',
      args: {
        who: arg.member(),
        skill: arg.choice(['lathe', 'welder', 'chainsaw']),
        valid: arg.duration({ min: '30d', default: '180d' }),
        pence: arg.integer({ optional: true }),
        note: arg.tail({ optional: true }),
      },
      run({ args }) {
        expectTypeOf(args.who).toEqualTypeOf<Member>();
        expectTypeOf(args.skill).toEqualTypeOf<'lathe' | 'welder' | 'chainsaw'>();
        expectTypeOf(args.valid).toEqualTypeOf<number>();
        expectTypeOf(args.pence).toEqualTypeOf<number | undefined>();
        expectTypeOf(args.note).toEqualTypeOf<string | undefined>();
        // @ts-expect-error: there is no such argument
        args.whom;
      },
    });
  });

  test('mapped values, with absence kept', () => {
    command({
      ...described,
      name: 'pay',
      args: {
        sum: arg.integer().map((pence) => ({ pence })),
        tip: arg.integer({ optional: true }).map((pence) => ({ pence })),
      },
      run({ args }) {
        expectTypeOf(args.sum).toEqualTypeOf<{ pence: number }>();
        expectTypeOf(args.tip).toEqualTypeOf<{ pence: number } | undefined>();
      },
    });
  });
});

describe('`in` narrows the call', () => {
  test('a guild', () => {
    command({
      ...described,
      name: 'announce',
      in: 'guild',
      run({ guild, caller }) {
        expectTypeOf(guild).toEqualTypeOf<Guild>();
        expectTypeOf(caller).toEqualTypeOf<GuildActor>();
      },
    });
  });
  test('a direct message', () => {
    command({
      ...described,
      name: 'a',
      in: 'direct',
      run: ({ guild }) => void expectTypeOf(guild).toEqualTypeOf<undefined>(),
    });
  });
  test('anywhere', () => {
    command({
      ...described,
      name: 'a',
      run: ({ guild }) => void expectTypeOf(guild).toEqualTypeOf<Guild | undefined>(),
    });
  });
  test('so does a choice of what each guild has of its own, by itself and in a list', () => {
    const tool = arg.choice(({ guild }) => [{ name: guild.id, shelf: 7 }], { in: 'guild', name: ({ name }) => name });
    command({
      ...described,
      name: 'lend',
      args: { tool, others: arg.list(tool, { optional: true }) },
      run({ guild, args }) {
        expectTypeOf(guild).toEqualTypeOf<Guild>();
        expectTypeOf(args.tool.shelf).toEqualTypeOf<number>();
        expectTypeOf(args.others).toEqualTypeOf<readonly { name: string; shelf: number }[] | undefined>();
      },
    });
    const film = arg.choice(({ guild }) => {
      expectTypeOf(guild).toEqualTypeOf<Guild | undefined>();
      return ['crossing'];
    });
    command({
      ...described,
      name: 'show',
      args: { film },
      run: ({ guild }) => void expectTypeOf(guild).toEqualTypeOf<Guild | undefined>(),
    });
    const unknown = arg.choice(async () => JSON.parse('[]'), { name: ({ title }) => title });
    command({
      ...described,
      name: 'row',
      args: { unknown },
      run: ({ args }) => void expectTypeOf(args.unknown).toBeUnknown(),
    });
    const rows: ReturnType<typeof JSON.parse>[] = [];
    const row = arg.choice(async () => rows, { name: ({ title }) => title, describe: ({ year }) => String(year) });
    command({ ...described, name: 'row', args: { row }, run: ({ args }) => void expectTypeOf(args.row).toBeAny() });
    // @ts-expect-error things have no name of their own
    arg.choice(() => [{ shelf: 7 }]);
  });

  test('a member argument implies a guild', () => {
    command({
      ...described,
      name: 'a',
      args: { who: arg.member() },
      run: ({ guild }) => void expectTypeOf(guild).toEqualTypeOf<Guild>(),
    });
  });
});

describe('wrong declarations do not compile', () => {
  const run = () => 'done';

  test('outranking what is no member argument', () => {
    command({
      ...described,
      name: 'fine',
      args: { who: arg.member(), pence: arg.integer() },
      requires: ({ caller, bot }) => [
        caller.outranks('who'),
        bot.outranks('who'),
        // @ts-expect-error: pence is no member
        caller.outranks('pence'),
        // @ts-expect-error: there is no such argument
        caller.outranks('whom'),
      ],
      run,
    });
  });

  test('a bare number as a time', () => {
    expectTypeOf<'1h30m'>().toExtend<Duration>();
    expectTypeOf<{ ms: number }>().toExtend<Duration>();
    expectTypeOf<number>().not.toExtend<Duration>();
    // @ts-expect-error: 30 of what?
    arg.duration({ min: 30 });
    // @ts-expect-error: moons have no length
    arg.duration({ default: '3 moons' });
  });

  test('a cooldown that does not read', () => {
    command({ ...described, name: 'a', cooldowns: { user: '5 in 1m', guild: '10m' }, run });
    // @ts-expect-error: "im" is no word of it
    command({ ...described, name: 'a', cooldowns: { user: '5 im 1m' }, run });
    // @ts-expect-error: 5 of what?
    command({ ...described, name: 'a', cooldowns: { user: 5 }, run });
  });

  test('unknown options and defaults of another type', () => {
    // @ts-expect-error: it is called max
    arg.integer({ maximum: 5 });
    // @ts-expect-error: a text is no whole number
    arg.integer({ default: 'five' });
    // @ts-expect-error: no such label
    arg.choice(['lathe', 'welder'], { default: 'saw' });
  });
});

test('a handler that asks gets a value of the kind that it asks for', () => {
  command({
    name: 'reserve',
    description: 'Reserve',
    confirm: 'Sure?',
    async run(call) {
      expectTypeOf(await call.ask(arg.choice(['friday', 'saturday']), 'Which day?')).toEqualTypeOf<
        'friday' | 'saturday'
      >();
      expectTypeOf(await call.ask(arg.integer().map(String), 'How many?')).toEqualTypeOf<string>();
      expectTypeOf(await call.confirm('Sure?')).toEqualTypeOf<void>();
      // @ts-expect-error: what is asked for is an argument
      await call.ask('days', 'How many?');
    },
  });
  // @ts-expect-error: there are two ways
  arg.integer({ whenMissing: 'Ask' });
});

test('invoke takes the values of its command', () => {
  const fine = command({
    ...described,
    name: 'fine',
    args: {
      pence: arg.integer(),
      keep: arg.duration({ default: '3d' }),
      rounds: arg.integer({ default: ({ now }) => now % 2 }),
      note: arg.tail({ optional: true }),
    },
    run: () => 'done',
  });
  const layer = createCommandLayer({ commands: [fine] });
  expectTypeOf(layer.invoke(fine, { as: 'night watch', args: { pence: 5 } })).resolves.toEqualTypeOf<Outcome>();
  layer.invoke(fine, { as: 'night watch', args: { pence: 5, keep: 1000, note: 'late' } });
  // @ts-expect-error: “pence” is missing
  layer.invoke(fine, { as: 'night watch', args: {} });
  // @ts-expect-error: pence is a number
  layer.invoke(fine, { as: 'night watch', args: { pence: '5' } });
  expectTypeOf(fine).toExtend<Command>();
});

test('messages of a bot’s own: a wrong code or parameter does not compile', () => {
  const { refuse, say } = messages(
    { 'library.closed': { opens: 'datetime' }, 'library.open': {} },
    { en: { 'library.closed': 'Closed until {opens}.', 'library.open': 'Open.' } },
  );
  refuse('library.closed', { opens: new Date() });
  say('library.open');
  // @ts-expect-error: no such code
  refuse('library.shut');
  // @ts-expect-error: the parameter is missing
  refuse('library.closed');
  // @ts-expect-error: no such parameter
  refuse('library.closed', { open: 5 });
  // @ts-expect-error: a date, not a text
  refuse('library.closed', { opens: 'soon' });
  // @ts-expect-error: a “text” is missing
  messages({ 'a.b': {} }, { en: {} });
});
