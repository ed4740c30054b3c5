import { polish } from '@taxeon/icu';
import { type Exchange, virtualClock } from '@taxeon/testing';
import {
  arg,
  type CommandOrGroup,
  command,
  createCommandLayer,
  type LayerOptions,
  memoryStore,
  plainText,
} from 'taxeon';
import { type AskingOptions, askInChat } from 'taxeon/asking';
import { explain } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { scene } from '../../../test/support/asking.js';
import { type Scene, sceneOf, startOfAfternoon } from '../../../test/support/oddmere.js';

const fine = command({
  name: 'fine',
  aliases: ['charge'],
  description: 'Charge a member',
  whenMissing: 'ask',
  args: {
    who: arg.member({ description: 'Who is charged' }),
    pence: arg.integer({ min: 1, max: 500, description: 'How much' }),
    tool: arg.text({ optional: true }),
  },
  requires: ({ caller }) => [caller.can('fine'), caller.outranks('who')],
  cooldowns: { user: '3 in 1m' },
  run: ({ args: { who, pence, tool } }) => `${who.name} pays ${pence} for ${tool ?? 'nothing'}.`,
});

const lamp = command({ name: 'lamp', description: 'The lamp', run: () => 'The lamp is lit.' });

const ask = (options?: AskingOptions): Partial<LayerOptions> => ({ asking: askInChat(options) });
const said = ({ posts }: Exchange) => posts.map(({ notice }) => plainText(notice)).join('\n');
/** Until all that was begun has ended, without the clock moving on. */
const settled = () => new Promise((resolve) => setTimeout(resolve, 5));

async function says(scene: Scene, by: string, ...lines: string[]): Promise<readonly Exchange[]> {
  const all: Exchange[] = [];
  for (const line of lines) all.push(await scene.types(by, line));
  return all;
}

const last = (all: readonly Exchange[]) => all.at(-1) as Exchange;
const statusOf = ({ outcome }: Exchange) => ('code' in outcome ? outcome.code : outcome.status);

describe('what is missing', () => {
  test('is asked for in words of its declaration, and the next message is the answer', async () => {
    const scene = await sceneOf([fine, lamp], ask());
    const all = await says(scene, 'ines', '!fine', 'Tobias', 'many', '50');
    expect(all.map(said)).toEqual([
      'I still need “who”: a person here, by mention or name.\nWho is charged\nJust type it, such as @ines, within 1 minute. “stop” ends this.',
      'I still need “pence”: a whole number from 1 to 500.\nHow much\nJust type it, such as 1, within 1 minute. “stop” ends this.',
      '“pence” takes a whole number from 1 to 500; “many” is not that.\nJust type it, such as 1, within 1 minute. “stop” ends this.',
      'Tobias pays 50 for nothing.',
    ]);
    expect(all.map(statusOf)).toEqual(['waiting', 'waiting', 'waiting', 'completed']);
    expect(all[0]?.outcome).toMatchObject({
      command: 'fine',
      asks: { for: 'argument', argument: 'who', problem: { code: 'argument.missing' } },
      until: startOfAfternoon + 60_000,
    });
  });

  test('is asked for where something else is right, and what was right stays', async () => {
    const scene = await sceneOf([fine], ask());
    expect(said(last(await says(scene, 'ines', '!charge Tobias many drill', '50')))).toBe('Tobias pays 50 for drill.');
  });

  test('is asked for in the caller’s language', async () => {
    const scene = await sceneOf([fine], { ...ask(), languages: [polish()] });
    const sends = (text: string) =>
      scene.platform.send(scene.platform.typed({ person: 'ines', place: 'oddmere/counter', text, locale: 'pl' }));
    expect(said(await sends('!fine Tobias'))).toBe(
      'Potrzebne jest jeszcze „pence”: liczba całkowita od 1 do 500.\nHow much\nWystarczy to napisać, na przykład 1. Czas: 1 minuta. „stop” kończy.',
    );
    expect(said(await sends('Anuluj.'))).toBe('Dobrze, nic się nie stało.');
  });

  const asking = (whenMissing: 'ask' | 'refuse' | undefined, inArg?: 'ask' | 'refuse') =>
    command({
      name: 'drill',
      description: 'Drill',
      ...(whenMissing === undefined ? {} : { whenMissing }),
      args: { days: arg.integer(inArg === undefined ? {} : { whenMissing: inArg }) },
      run: () => 'done',
    });

  test.each([
    ['nothing says so', undefined, undefined, 'refuse', 'argument.missing'],
    ['the layer says so', undefined, undefined, 'ask', 'waiting'],
    ['the command says otherwise', 'refuse', undefined, 'ask', 'argument.missing'],
    ['the argument says otherwise', 'refuse', 'ask', 'refuse', 'waiting'],
  ] as const)('where %s', async (_, inCommand, inArg, inLayer, expected) => {
    const scene = await sceneOf([asking(inCommand, inArg)], ask({ whenMissing: inLayer }));
    expect(statusOf(await scene.types('ines', '!drill'))).toBe(expected);
  });

  const stock = command({
    name: 'stock',
    description: 'Stock',
    whenMissing: 'ask',
    args: { state: arg.choice(['stop', 'go']), tools: arg.list(arg.text()) },
    run: ({ args }) => JSON.stringify(args),
  });
  const note = command({
    name: 'note',
    description: 'Note',
    whenMissing: 'ask',
    args: { tool: arg.text(), text: arg.tail({ max: 200 }) },
    run: ({ args }) => JSON.stringify(args),
  });

  test.each([
    ['several words', ['!note', 'angle grinder', 'x'], '{"tool":"angle grinder","text":"x"}'],
    ['quotes', ['!note', '"angle grinder"', 'x'], '{"tool":"angle grinder","text":"x"}'],
    ['the stop word in quotes', ['!note', '"stop"', 'x'], '{"tool":"stop","text":"x"}'],
    ['what looks like a flag', ['!note', '--dry-run', '-- x'], '{"tool":"--dry-run","text":"-- x"}'],
    ['a tail of lines', ['!note drill', 'one\n"two\n  three'], '{"tool":"drill","text":"one\\n\\"two\\n  three"}'],
    ['a list', ['!stock go', 'drill, "wood saw"'], '{"state":"go","tools":["drill","wood saw"]}'],
    ['a stop word that is a value', ['!stock', 'stop', 'saw'], '{"state":"stop","tools":["saw"]}'],
    ['a mention in front', ['!note', '@mallet drill', '@mallet x'], '{"tool":"drill","text":"x"}'],
  ])('takes %s', async (_, lines, expected) => {
    const scene = await sceneOf([stock, note], ask());
    expect(said(last(await says(scene, 'ines', ...lines)))).toBe(expected);
  });

  test.each([
    ['a prefix and a command', '!lamp', 'The lamp is lit.'],
    ['a prefix and no command', '!50', ''],
    ['a mention and a command', '@mallet lamp', 'The lamp is lit.'],
  ])('%s in front is no answer, and the question stays open', async (_, line, expected) => {
    const scene = await sceneOf([fine, lamp], ask());
    const all = await says(scene, 'ines', '!fine Tobias', line, '50');
    expect(said(all[1] as Exchange)).toBe(expected);
    expect(said(last(all))).toBe('Tobias pays 50 for nothing.');
  });

  test('in a direct message without prefixes, a command’s name is the command', async () => {
    const scene = await sceneOf([note, lamp], { ...ask(), prefixInDirect: 'optional' });
    const all: Exchange[] = [];
    for (const line of ['note', 'drill', 'lamp', 'oiled']) all.push(await scene.types('ines', line, 'direct'));
    expect(all.map(statusOf)).toEqual(['waiting', 'waiting', 'completed', 'completed']);
    expect(said(last(all))).toBe('{"tool":"drill","text":"oiled"}');
  });

  test('is refused as ever where something is wrong that cannot be asked for', async () => {
    const scene = await sceneOf([fine], ask());
    expect(statusOf(await scene.types('ines', '!fine Tobias 50 drill saw'))).toBe('argument.extra');
    expect(statusOf(await scene.types('ines', '!fine "Tobias'))).toBe('input.malformed');
    expect(statusOf(await scene.types('ines', 'Tobias'))).toBe('ignored');
  });

  test('is asked of nobody who may not run it, whose cooldown is running, or who is told nothing any more', async () => {
    const scene = await sceneOf([fine], { ...ask(), damping: '1 in 1m' });
    expect(statusOf(await scene.types('wren', '!fine'))).toBe('permission.caller');
    await says(scene, 'ines', '!fine Tobias 1', '!fine Tobias 1', '!fine Tobias 1');
    expect(statusOf(await scene.types('ines', '!fine'))).toBe('cooldown.active');
    scene.clock.advance(61_000);
    const asked = await says(scene, 'ines', '!fine', '!fine', '!fine', '!fine');
    expect(asked.map(statusOf)).toEqual(['waiting', 'waiting', 'waiting', 'argument.missing']);
    expect(asked.map(said)[2]).toContain('I leave it at that');
    // What was not said was not asked.
    expect(statusOf(await scene.types('ines', 'Tobias'))).toBe('ignored');
  });

  test('takes nothing of a limit before the answer, and one use for all of it', async () => {
    const store = memoryStore({ clock: virtualClock(startOfAfternoon) });
    const scene = await sceneOf([fine], { ...ask(), store });
    await says(scene, 'ines', '!fine', 'Tobias', 'x');
    const uses = async () => {
      let sum = 0;
      for await (const page of store.live()) for (const one of page) sum += one.uses;
      return sum;
    };
    expect(await uses()).toBe(0);
    await scene.types('ines', '50');
    expect(await uses()).toBe(1);
  });

  test('has one time for all tries, after which that is said once, with a second event for the same input', async () => {
    const scene = await sceneOf([fine], ask());
    const ended: string[] = [];
    scene.layer.on('ended', ({ status, code }) => void ended.push(code ?? status));
    const [{ input }] = (await says(scene, 'ines', '!fine Tobias')) as [Exchange];
    scene.clock.advance(40_000);
    expect(said(await scene.types('ines', 'many'))).toContain('within 20 seconds');
    const refused: unknown[] = [];
    scene.layer.on('refused', (event) => void refused.push(event.command));
    scene.clock.advance(20_000);
    await settled();
    expect(plainText(scene.platform.posts.at(-1)?.notice ?? { body: '' })).toBe(
      'There was no answer, so nothing was done.',
    );
    expect(statusOf(await scene.types('ines', '50'))).toBe('ignored');
    expect(ended).toEqual(['waiting', 'waiting', 'answer.none']);
    expect(refused).toEqual(['fine']);
    expect(input.text).toBe('!fine Tobias');
  });

  test('the newest question of a person in a place is the one that is open', async () => {
    const scene = await sceneOf([fine, note], ask());
    const all = await says(scene, 'ines', '!fine Tobias', '!note drill', '50', '60');
    expect(all.map(statusOf)).toEqual(['waiting', 'waiting', 'completed', 'ignored']);
    expect(said(all[2] as Exchange)).toBe('{"tool":"drill","text":"50"}');
  });

  test('beyond the number of questions there may be, and beyond what may be kept, it is refused as ever', async () => {
    const scene = await sceneOf([fine, note], ask({ most: 1 }));
    expect(statusOf(await scene.types('ines', '!fine'))).toBe('waiting');
    expect(statusOf(await scene.types('odalys', '!fine'))).toBe('argument.missing');
    await scene.types('ines', 'stop');
    expect(statusOf(await scene.types('odalys', `!note ${'x'.repeat(9000)}`))).toBe('argument.missing');
  });

  test('takes a file that comes with the answer, and no other than the one that is asked for', async () => {
    const photo = command({
      name: 'photo',
      description: 'Photo',
      whenMissing: 'ask',
      args: { tool: arg.choice(['drill', 'saw']), of: arg.attachment() },
      run: ({ args }) => `${args.tool}: ${args.of.name}`,
    });
    const scene = await sceneOf([photo], ask());
    const file = { name: 'drill.png', type: 'image/png', content: 'x' };
    const send = (text: string, files: readonly (typeof file)[] = []) =>
      scene.platform.send(scene.platform.typed({ person: 'ines', place: 'oddmere/counter', text, files }));
    expect(statusOf(await send('!photo'))).toBe('waiting');
    expect(statusOf(await send('drill'))).toBe('waiting');
    expect(statusOf(await send('here it is'))).toBe('waiting');
    expect(said(await send('', [file]))).toBe('drill: drill.png');
    // A file that came before is not kept for later.
    expect(statusOf(await send('!photo', [file]))).toBe('argument.missing');
  });

  test('an answer of a megabyte is read as the same line would be', async () => {
    const scene = await sceneOf([fine], ask());
    const long = 'x'.repeat(1_000_000);
    const [, answer] = await says(scene, 'ines', '!fine Tobias', long);
    expect(statusOf(answer as Exchange)).toBe('waiting');
    expect(said(answer as Exchange).length).toBeLessThan(400);
  });

  test('an answer that is delivered twice is taken once', async () => {
    const scene = await sceneOf([fine], ask());
    await scene.types('ines', '!fine');
    const answer = scene.platform.typed({ person: 'ines', place: 'oddmere/counter', text: 'Tobias', id: 'a1' });
    expect(statusOf(await scene.platform.send(answer))).toBe('waiting');
    expect(statusOf(await scene.platform.send({ ...answer }))).toBe('ignored');
    expect(said(await scene.types('ines', '7'))).toBe('Tobias pays 7 for nothing.');
  });

  test('is asked for at the console, and never of the bot’s own code', async () => {
    const scene = await sceneOf([note], ask());
    expect(statusOf(await scene.console('note'))).toBe('waiting');
    expect(statusOf(await scene.console('drill'))).toBe('waiting');
    expect(said(await scene.console('oiled'))).toBe('{"tool":"drill","text":"oiled"}');
    const { code } = (await scene.layer.invoke(note, { args: {} as never, as: 'test' })) as { code?: string };
    expect(code).toBe('argument.missing');
  });

  test('explain says what would be asked for, and opens nothing', async () => {
    const scene = await sceneOf([fine], ask());
    const input = scene.platform.typed({ person: 'ines', place: 'oddmere/counter', text: '!fine Tobias' });
    const { status, stages, message } = await explain(scene.layer, input, scene.platform);
    expect([status, stages.find(({ name }) => name === 'read')?.reason]).toEqual(['waiting', 'would ask for pence']);
    expect(message).toContain('I still need “pence”');
    expect(statusOf(await scene.types('ines', '50'))).toBe('ignored');
    await scene.types('ines', '!fine Tobias');
    const answer = scene.platform.typed({ person: 'ines', place: 'oddmere/counter', text: '50' });
    expect(await explain(scene.layer, answer, scene.platform)).toMatchObject({ status: 'runs', args: { pence: 50 } });
    expect(statusOf(await scene.types('ines', '50'))).toBe('completed');
  });

  test('a declaration that asks in a layer that does not is told', () => {
    const make = (one: CommandOrGroup) => () => createCommandLayer({ commands: [one] });
    expect(make(fine)).toThrow('fine, whenMissing: needs `asking: askInChat()` of taxeon/asking in the layer');
    expect(make(asking(undefined, 'ask'))).toThrow('drill, whenMissing: needs');
    expect(make(command({ name: 'lamp', description: 'x', confirm: 'Sure?', run: () => '' }))).toThrow(
      'lamp, confirm:',
    );
    expect(() => askInChat({ within: 'soon', whenMissing: 'Ask', most: 0 } as never)).toThrow(
      /within: is "soon".*\n.*whenMissing: is "Ask".*\n.*most: is 0/,
    );
  });
});

test('a yes is to those who were meant: where another has the name by then, it is asked again', async () => {
  const run: string[] = [];
  const debar = command({
    name: 'debar',
    description: 'Debar a member',
    args: { who: arg.member() },
    confirm: ({ who }) => `Debar ${who.name}?`,
    run: ({ args }) => void run.push(args.who.id),
  });
  const here = await scene([debar]);
  const { directory } = here.platform;
  expect(statusOf(await here.types('ines', '!debar pim'))).toBe('waiting');
  const { membersNamed } = directory;
  Object.assign(directory, {
    membersNamed: async (guild: never, name: string) =>
      name === 'pim'
        ? [{ ...(await membersNamed.call(directory, guild, 'tobias'))[0], name: 'Pim' }]
        : membersNamed.call(directory, guild, name),
    member: () => undefined,
  });
  expect(statusOf(await here.types('ines', 'yes'))).toBe('waiting');
  expect(run).toEqual([]);
  expect(statusOf(await here.types('ines', 'yes'))).toBe('completed');
  expect(run).toEqual(['tobias']);
});

test('what is asked among a few is answered among them, and not where all hear it', async () => {
  const pin = command({
    name: 'pin',
    description: 'Tell a PIN',
    whenMissing: 'ask',
    args: { shelf: arg.integer() },
    run: ({ args }) => `Shelf ${args.shelf}: 4711.`,
  });
  const { layer, platform } = await scene([pin]);
  const says = (text: string, heardBy?: string) => {
    const input = platform.typed({ person: 'ines', place: 'oddmere/counter', text });
    const place = heardBy === undefined ? input.place : { ...input.place, heardBy };
    return layer.handle({ ...input, place } as typeof input, platform);
  };
  expect(await says('!pin', '@')).toMatchObject({ status: 'waiting' });
  expect(await says('7')).toEqual({ status: 'ignored', because: 'chat' });
  expect(await says('7', '@')).toMatchObject({ status: 'completed' });
});
