import { mallet } from '@oddmere/tool-library';
import { runUntil, standIn, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import { type AccessRule, arg, type CompletionFrom, command, group, type Log } from 'taxeon';
import { accessTableOf, complete, explain, type Help, helpOf } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import {
  oddmere,
  oddmereData,
  type Scene,
  sceneOf,
  silentLog,
  startOfAfternoon,
} from '../../../test/support/oddmere.js';

const described = { description: 'Something' };

/** What is offered at `|` in a line, or at its end. */
async function offered(scene: Scene, by: string, line: string, at = 'oddmere/counter') {
  const cursor = line.includes('|') ? line.indexOf('|') : line.length;
  const text = line.replace('|', '');
  const input = scene.platform.typed({ person: by, place: at, text });
  const suggestions = await complete(scene.layer, input, cursor, scene.platform);
  return suggestions.map((one) => ({ ...one, line: text.slice(0, one.start) + one.text + text.slice(one.end) }));
}

const texts = async (...asked: Parameters<typeof offered>) => (await offered(...asked)).map(({ text }) => text);

describe('what is offered', () => {
  const rows: [string, string, string, readonly string[]][] = [
    [
      'names, beginnings first, then words in them, then what is inside',
      'ines',
      '!o',
      ['overdue', 'stocktake', 'borrow', 'announce', 'how'],
    ],
    ['nothing in ordinary chat', 'ines', 'o', []],
    [
      'only what the caller may run',
      'pim',
      '!',
      ['back', 'help', 'shelf'].map((name) => (name === 'back' ? 'return' : name)).sort(),
    ],
    ['an alias where its own name does not begin so', 'ines', '!ta', ['take', 'stocktake']],
    ['what is in a group', 'ines', '!late ', ['close', 'list', 'remind']],
    ['nothing of a group that is not for the caller', 'wren', '!overdue ', []],
    ['labels of a choice', 'ines', '!induct wren ', ['lathe', 'welder', 'chainsaw']],
    ['people by the beginning of their name', 'ines', '!fine t', ['Tobias']],
    ['nothing behind what is wrong already', 'ines', '!fine nobody ', []],
    ['nothing behind what somebody may not run', 'wren', '!fine ', []],
    ['a name of two words', 'wren', '!borrow hed', ['hedge trimmer']],
    ['in quotes that are open already', 'wren', '!borrow "hed', ['"hedge trimmer"']],
    ['flags', 'wren', '!reserve spade tomorrow monday --t', ['--tentative']],
    ['flags that are not given yet', 'wren', '!reserve spade tomorrow monday --tentative --', ['--note']],
    ['no flag behind --', 'wren', '!reserve spade tomorrow monday -- --', []],
    [
      'nothing that a list has already',
      'wren',
      '!reserve spade tomorrow monday tobias, wren, ',
      ['Odalys', 'Ines', 'Pim', 'Kiosk', '--tentative', '--note'],
    ],
    ['more of a list, behind a comma', 'wren', '!reserve spade tomorrow monday tobias, i', ['Ines']],
    ['at the console', 'ines', '!anvil ', []],
  ];
  test.each(rows)('%s', async (_, by, line, expected) => {
    expect(await texts(await oddmere(), by, line)).toEqual(expected);
  });

  test('takes the place of the whole word that the cursor is in', async () => {
    const scene = await oddmere();
    expect((await offered(scene, 'ines', '!induct wren la|xyz 90d')).map(({ line }) => line)).toEqual([
      '!induct wren lathe 90d',
    ]);
    expect((await offered(scene, 'ines', '!sto|cktaik')).map(({ line }) => line)).toEqual(['!stocktake']);
  });

  test('for a slash option: by the kind, with what was given for the others', async () => {
    const scene = await oddmere();
    const input = scene.platform.invoked({
      person: 'ines',
      place: 'oddmere',
      path: ['induct'],
      options: { who: 'wren', skill: 'e' },
    });
    const suggestions = await complete(scene.layer, input, 'skill', scene.platform);
    expect(suggestions.map(({ text, start, end }) => [text, start, end])).toEqual([
      ['lathe', 0, 1],
      ['welder', 0, 1],
    ]);
    expect(await complete(scene.layer, input, 'nothing', scene.platform)).toEqual([]);
  });

  test('is no more than the platform shows', async () => {
    const scene = await oddmere();
    Object.assign(scene.platform.capabilities, { mostSuggestions: 3 });
    expect(await texts(scene, 'ines', '!')).toHaveLength(3);
  });
});

describe('a function of the developer’s', () => {
  const acting = (complete: CompletionFrom, log: Log = silentLog) =>
    sceneOf(
      [
        command({
          ...described,
          name: 'act',
          args: { n: arg.integer(), tool: arg.text({ complete }) },
          run: () => 'ran',
        }),
      ],
      { log },
    );

  test('gets the arguments read so far and what is typed', async () => {
    let seen: unknown[] = [];
    const scene = await acting((typed, { args, caller }) => {
      seen = [typed, args['n'], caller.id];
      return [{ value: 'drill', label: 'The drill', description: 'power' }, 'spade'];
    });
    expect(await offered(scene, 'wren', '!act 5 dr')).toMatchObject([
      { text: 'drill', label: 'The drill', description: 'power' },
    ]);
    expect(seen).toEqual(['dr', 5, 'wren']);
  });

  const odd: [string, CompletionFrom, readonly string[]][] = [
    [
      'throws',
      () => {
        throw new Error('no');
      },
      [],
    ],
    ['rejects', () => Promise.reject(new Error('no')), []],
    [
      'returns thousands',
      () => Array.from({ length: 5000 }, (_, index) => `tool-${index}`),
      Array.from({ length: 20 }, (_, index) => `tool-${index}`),
    ],
    ['returns duplicates', () => ['a', 'b', 'a', { value: 'b' }], ['a', 'b']],
    [
      'returns other types',
      () => [1, null, undefined, {}, { value: 5 }, '', ['x'], { value: 'kept', label: 7 }] as never,
      ['kept'],
    ],
    ['returns no list', () => 'drill' as never, []],
    ['returns nothing', () => undefined as never, []],
  ];
  test.each(odd)('that %s', async (_, complete, expected) => {
    const logged: string[] = [];
    const keep: Log['error'] = (_fields, message) => void logged.push(message);
    const scene = await acting(complete, { error: keep, warn: keep });
    expect(await texts(scene, 'wren', '!act 5 ')).toEqual(expected);
    expect(logged).toEqual(['throws', 'rejects'].includes(_) ? ['A completion of the bot’s own failed'] : []);
  });

  test('that hangs is given up, and its signal says so', async () => {
    let signal: AbortSignal | undefined;
    const scene = await acting((_, context) => {
      signal = context.signal;
      return new Promise(() => undefined);
    });
    expect(await runUntil(scene.clock, texts(scene, 'wren', '!act 5 '))).toEqual([]);
    expect(signal?.aborted).toBe(true);
  });

  test('whose answer comes late is dropped, since somebody has typed on', async () => {
    const answers: ((values: string[]) => void)[] = [];
    const signals: AbortSignal[] = [];
    const scene = await acting((_, { signal }) => {
      signals.push(signal);
      return new Promise((resolve) => answers.push(resolve));
    });
    const first = texts(scene, 'wren', '!act 5 d');
    await new Promise((done) => setTimeout(done, 0));
    const second = texts(scene, 'wren', '!act 5 dr');
    const other = texts(scene, 'ines', '!act 5 d');
    await new Promise((done) => setTimeout(done, 0));
    for (const answer of answers) answer(['drill']);
    expect([await first, await second, await other]).toEqual([[], ['drill'], ['drill']]);
    expect(signals[0]?.aborted).toBe(true);
  });
});

test('a suggestion, taken, leads to a line that reads without error up to that point', async () => {
  const kinds = command({
    ...described,
    name: 'kinds',
    args: {
      who: arg.member(),
      sure: arg.boolean({ default: false }),
      size: arg.choice(['small', 'very large', 'it’s "big"', '--odd'], { default: 'small' }),
      many: arg.list(arg.choice(['a', 'b c', 'd,e']), { optional: true }),
      where: arg.channel({ flag: true, optional: true }),
      role: arg.role({ flag: { short: 'r' }, optional: true }),
    },
    run: () => 'ran',
  });
  const nested = group({
    ...described,
    name: 'outer',
    commands: [group({ ...described, name: 'inner', commands: [kinds] })],
  });
  const step = fc.record({ typed: fc.nat(4), from: fc.nat(30), take: fc.nat(30) });
  await fc.assert(
    fc.asyncProperty(fc.boolean(), fc.array(step, { maxLength: 8 }), async (isDemo, steps) => {
      const scene = isDemo ? await oddmere() : await sceneOf([nested]);
      let text = '!';
      for (const { typed, from, take } of steps) {
        const all = await offered(scene, 'odalys', text);
        const begun = all[from % Math.max(1, all.length)]?.text.slice(0, typed) ?? '';
        const next = await offered(scene, 'odalys', text + begun);
        const chosen = next[take % Math.max(1, next.length)];
        if (chosen === undefined) return;
        const end = chosen.start + chosen.text.length;
        const line = chosen.line.slice(0, end);
        const { outcome } = await runUntil(scene.clock, scene.types('odalys', line));
        if (outcome.status === 'invalid') {
          for (const problem of outcome.problems) {
            expect([line, problem.code]).toEqual([line, 'argument.missing']);
          }
        } else expect([line, 'code' in outcome ? outcome.code : '']).not.toEqual([line, 'command.unknown']);
        text = `${line} `;
      }
    }),
    { numRuns: 80 },
  );
}, 30_000);

test('help, near names and completion show what a call is not refused for lack of rights, and nothing else', async () => {
  const data = oddmereData();
  const ids = [
    'borrow',
    'fine',
    'induct',
    'announce',
    'overdue',
    'overdue.list',
    'section:Lending',
    'section:For stewards',
    'help',
    'stocktake',
  ];
  const people = ['ines', 'tobias', 'wren', 'odalys', 'pim'];
  const subject = fc.oneof(
    fc.constantFrom(...people).map((member) => ({ member })),
    fc.constantFrom('steward', 'borrower', 'keeper').map((role) => ({ role })),
    fc.constantFrom('oddmere/counter', 'oddmere/workshop').map((channel) => ({ channel })),
  );
  const rule = fc
    .tuple(fc.constantFrom(...ids), subject, fc.constantFrom('grant', 'deny'))
    .map(([id, one, verdict]) => ({ command: id, verdict, ...one }) as AccessRule);
  const world = { ...data.world, guilds: data.world.guilds };
  await fc.assert(
    fc.asyncProperty(
      fc.record({ rules: fc.array(rule, { maxLength: 6 }), off: fc.subarray(ids) }),
      fc.constantFrom(...people),
      fc.subarray(['give-badges', 'post-notices']),
      async (settings, by, botMay) => {
        const clock = virtualClock(startOfAfternoon);
        const guilds = world.guilds.map((one) => ({
          ...one,
          roles: (one.roles ?? []).map((role) => (role.name === 'helper' ? { ...role, permissions: botMay } : role)),
        }));
        const platform = standIn({ ...world, guilds }, { clock });
        const layer = mallet({ ...data, guilds: { 'stand-in/oddmere': settings } }, { clock, log: silentLog });
        await platform.serve(layer);
        const input = (text: string) => platform.typed({ person: by, place: 'oddmere/counter', text });
        const { place, caller } = input('');
        if (place.kind !== 'guild' || caller.kind !== 'member') throw new Error('no guild');
        const table = await accessTableOf(layer, place, platform, caller);
        const hidden: string[] = [];
        const shownByCall: string[] = [];
        for (const { command: name, cells } of table.rows) {
          const { code } = await explain(layer, input(`!${name}`), platform);
          const isHidden = ['permission.caller', 'command.unavailable', 'place.wrong'].includes(code ?? '');
          (isHidden ? hidden : shownByCall).push(name);
          const cell = cells.at(-1);
          if (isHidden) expect(['refused', 'off']).toContain(cell?.verdict);
          else if (cell?.verdict === 'refused') expect(cell.because).toContain('the bot needs the permission');
        }
        const shown: string[] = [];
        const index: Help = await helpOf(layer, input('!'), undefined, platform);
        if (index.kind === 'index') shown.push(...index.sections.flatMap(({ lines }) => lines.map(({ name }) => name)));
        for (const line of ['!', '!overdue ', '!o', '!s']) {
          const suggestions = await complete(layer, input(line), line.length, platform);
          shown.push(...suggestions.map(({ text }) => (line === '!overdue ' ? `overdue ${text}` : text)));
        }
        for (const typo of ['borow', 'fien', 'anounce', 'inducd', 'overdu', 'overdue lits', 'hepl']) {
          const { outcome } = await platform.send(input(`!${typo}`));
          if (outcome.status === 'refused' && outcome.by === 'layer' && outcome.code === 'command.unknown')
            shown.push(...outcome.parameters.near);
          const help = await helpOf(layer, input('!'), typo, platform);
          if (help.kind === 'nothing') shown.push(...help.near);
        }
        const group = await helpOf(layer, input('!'), 'overdue', platform);
        if (group.kind === 'group') shown.push(...group.lines.map(({ name }) => name));
        for (const name of hidden) {
          expect(shown).not.toContain(name);
          expect(await helpOf(layer, input('!'), name, platform)).toMatchObject({ kind: 'nothing' });
        }
        for (const name of shownByCall) {
          if (!name.includes(' ')) expect(shown).toContain(name);
          expect(await helpOf(layer, input('!'), name, platform)).toMatchObject({ kind: 'command' });
        }
      },
    ),
    { numRuns: 80 },
  );
}, 30_000);
