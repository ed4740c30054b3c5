import { runUntil, standIn, virtualClock } from '@taxeon/testing';
import { checkTryout, mismatchInWords, playTryout } from '@taxeon/testing/tryouts';
import { type Attachment, arg, command, createCommandLayer, guildSettings, memoryStore, type Outcome } from 'taxeon';
import type { Input } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, sceneOf, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const photo = { name: 'crack.png', type: 'image/png', content: 'a picture' };
const note = { name: 'note.txt', type: 'text/plain', content: 'it broke' };

const damage = command({
  name: 'damage',
  description: 'Tell what is broken',
  args: {
    tool: arg.text(),
    picture: arg.attachment({ types: ['image/*'], max: 20 }),
    more: arg.attachment({ max: 10, optional: true }),
    how: arg.tail({ optional: true }),
  },
  async run({ args: { picture, tool } }) {
    return `${tool}: ${new TextDecoder().decode(await picture.read())}, ${picture.name}, ${picture.size}`;
  },
});

/** Without what keeps a name from pinging or becoming an address. */
const told = (outcome: Outcome) =>
  'reply' in outcome ? outcome.reply?.notice.body.replaceAll('\u2060', '') : undefined;

describe('a file as an argument', () => {
  async function report(files: readonly (typeof photo)[], text = '!damage drill in two') {
    const { platform } = await sceneOf([damage]);
    return (await platform.send(platform.typed({ person: 'ines', place: 'oddmere', text, files }))).outcome;
  }

  test('is taken in the order of the arguments, and takes no word', async () => {
    const outcome = await report([photo, { ...note, content: 'broke' }]);
    expect(outcome).toMatchObject({ args: { tool: 'drill', how: 'in two', more: { name: 'note.txt', size: 5 } } });
    expect(told(outcome)).toBe('drill: a picture, crack.png, 9');
  });

  const usage = '“picture” takes a file of at most 20 B of the type image/*';
  test.each<[string, readonly (typeof photo)[], string]>([
    ['missing', [], '“picture” is missing: a file of at most 20 B of the type image/*.'],
    ['of another type', [note], `${usage}; “note.txt” is not that.`],
    ['too large', [{ ...photo, content: 'x'.repeat(21) }], `${usage}; “crack.png” is too large.`],
    ['one too many', [photo, photo, photo], 'I do not know what to do with “crack.png”.'],
    ['with a name that pings', [{ ...note, name: '@wren\u202e.png' }], `${usage}; “@wren.png” is not that.`],
  ])('that is %s is told', async (_, files, sentence) => {
    expect(told(await report(files))).toBe(sentence);
  });

  test('is an option by slash, and shown in the usage', async () => {
    const { platform } = await sceneOf([damage]);
    const invoking = { person: 'ines', place: 'oddmere', path: ['damage'], options: { tool: 'drill' } };
    const { outcome } = await platform.send(platform.invoked({ ...invoking, files: { picture: photo } }));
    expect(told(outcome)).toBe('drill: a picture, crack.png, 9');
    const other = await platform.send(
      platform.invoked({ ...invoking, options: { tool: 'drill', picture: 'file-1' }, files: {} }),
    );
    expect(codeOf(other.outcome)).toBe('argument.invalid');
    const { outcome: text } = await platform.send(
      platform.typed({ person: 'ines', place: 'oddmere', text: '!damage' }),
    );
    expect('reply' in text && text.reply?.notice.details?.[0]).toBe(
      'Usage: !damage <tool> [how…] <📎 picture> [📎 more]',
    );
  });

  test('gives no more than it says, and is not waited for for ever', async () => {
    const clock = virtualClock(startOfAfternoon);
    const platform = standIn(oddmereData().world, { clock });
    const layer = createCommandLayer({ commands: [damage], prefixes: ['!'], clock, log: silentLog });
    const typed = platform.typed({ person: 'ines', place: 'oddmere', text: '!damage drill' });
    const giving = (read: Attachment['read']): Input => ({
      ...typed,
      id: `${Math.random()}`,
      attachments: [{ id: '1', name: 'a.png', type: 'image/png', size: 3, read }],
    });
    const codes: string[] = [];
    for (const read of [
      async () => new Uint8Array(4),
      async () => 'abc' as never,
      () => new Promise<never>(() => undefined),
      () => Promise.reject(new Error('gone')),
    ]) {
      codes.push(codeOf(await runUntil(clock, layer.handle(giving(read), platform))));
    }
    expect(codes).toEqual(['platform.failed', 'platform.failed', 'handler.failed', 'handler.failed']);
  });

  test.each<[string, unknown]>([
    ['no list', 'crack.png'],
    ['without a name', [{ id: '1', type: 'image/png', size: 1, read: async () => new Uint8Array() }]],
    ['with a size below zero', [{ id: '1', name: 'a', type: '', size: -1, read: async () => new Uint8Array() }]],
    ['with a name that goes on', [{ id: '1', name: 'a'.repeat(513), type: '', size: 1, read: () => undefined }]],
    ['with nothing to read', [{ id: '1', name: 'a', type: '', size: 1 }]],
    ['too many', Array.from({ length: 21 }, () => ({ id: '1', name: 'a', type: '', size: 1, read: () => undefined }))],
  ])('that a platform gives as what is none is no input: %s', async (_, attachments) => {
    const { layer, platform } = await sceneOf([damage]);
    const typed = platform.typed({ person: 'ines', place: 'oddmere', text: '!damage drill' });
    expect((await layer.handle({ ...typed, attachments } as never, platform)).status).toBe('ignored');
  });

  test('is declared right, or told', () => {
    const wrong = (value: () => unknown) =>
      expect(() =>
        createCommandLayer({ commands: [command({ ...damage.declaration, args: { a: value() } } as never)] }),
      );
    wrong(() => arg.attachment({ types: ['png'] })).toThrow('give media types');
    wrong(() => arg.attachment({ max: 0 })).toThrow('give a whole number of bytes');
    wrong(() => arg.attachment({ flag: true, optional: true })).toThrow('is a file, which is no flag');
    wrong(() => arg.list(arg.attachment())).toThrow('take a kind of single values');
  });
});

describe('a message that did not read', () => {
  const runs: string[] = [];
  const fine = command({
    name: 'fine',
    description: 'Charge a member',
    args: { who: arg.member(), pence: arg.integer({ max: 500 }) },
    cooldowns: { user: '2 in 1m' },
    run: ({ args }) => {
      runs.push(args.who.name);
      return `${args.who.name}: ${args.pence}`;
    },
  });

  async function scene(edits: '2m' | 'never' = '2m') {
    runs.length = 0;
    const clock = virtualClock(startOfAfternoon);
    const platform = standIn(oddmereData().world, { clock });
    const own = edits === 'never' ? {} : { edits };
    const layer = createCommandLayer({ commands: [fine], prefixes: ['!'], clock, log: silentLog, ...own });
    await platform.serve(layer);
    let said = 0;
    const types = (text: string, more: object = {}) =>
      platform.send(platform.typed({ person: 'ines', place: 'oddmere', text, id: `line-${++said}`, ...more }));
    return { clock, platform, types };
  }

  test('is read again when it is edited, runs once, and its reply is changed', async () => {
    const { platform, types } = await scene();
    await types('!fine wren 5x');
    expect(platform.posts).toHaveLength(1);
    expect(codeOf((await types('!fine wren 501', { edits: 'line-1' })).outcome)).toBe('argument.invalid');
    const { outcome } = await types('!fine wren 50', { edits: 'line-1' });
    expect(outcome.status).toBe('completed');
    expect(platform.posts.map(({ notice, earlier }) => [notice.body, earlier.length])).toEqual([['Wren: 50', 2]]);
    expect((await types('!fine wren 60', { edits: 'line-1' })).outcome.status).toBe('ignored');
    expect((await types('!fine wren 60', { id: 'line-1' })).outcome.status).toBe('ignored');
    expect(runs).toEqual(['Wren']);
  });

  test.each<[string, object]>([
    ['by somebody else', { edits: 'line-1', person: 'odalys' }],
    ['in another channel', { edits: 'line-1', place: 'oddmere/shed' }],
    ['of a message that nobody has seen', { edits: 'line-9' }],
  ])('is not read again %s', async (_, more) => {
    const { types } = await scene();
    await types('!fine wren 5x');
    const channels = oddmereData().world.guilds[0]?.channels ?? [];
    const where = 'place' in more ? { ...more, place: `oddmere/${channels[1]}` } : more;
    expect((await types('!fine wren 50', where)).outcome.status).toBe('ignored');
    expect(runs).toEqual([]);
  });

  test('is not read again later, where the layer does not say so, or where it was read', async () => {
    const late = await scene();
    await late.types('!fine wren 5x');
    late.clock.advance(121_000);
    expect((await late.types('!fine wren 5', { edits: 'line-1' })).outcome.status).toBe('ignored');
    const never = await scene('never');
    await never.types('!fine wren 5x');
    expect((await never.types('!fine wren 5', { edits: 'line-1' })).outcome.status).toBe('ignored');
    const done = await scene();
    await done.types('!fine wren 5');
    expect((await done.types('!fine wren 6', { edits: 'line-1' })).outcome.status).toBe('ignored');
    expect(runs).toEqual(['Wren']);
  });

  test('is answered anew where its reply is gone', async () => {
    const { platform, types } = await scene();
    await types('!fine wren 5x');
    platform.remove?.(
      { id: platform.posts[0]?.id ?? '' },
      platform.typed({ person: 'ines', place: 'oddmere', text: '' }),
    );
    await types('!fine wren 5', { edits: 'line-1' });
    expect(platform.posts.at(-1)?.notice.body).toBe('Wren: 5');
  });

  test('is answered anew where the platform changes nothing', async () => {
    const { platform, types } = await scene();
    await types('!fine wren 5x');
    Object.assign(platform, { edit: undefined });
    await types('!fine wren 5', { edits: 'line-1' });
    expect(platform.posts.map(({ notice }) => notice.body).at(-1)).toBe('Wren: 5');
    expect(platform.posts).toHaveLength(2);
  });

  test('whose answer is for the caller alone does not stand where others have read the mistake', async () => {
    const clock = virtualClock(startOfAfternoon);
    const platform = standIn(oddmereData().world, { clock });
    const pin = command({
      name: 'pin',
      description: 'Tell a PIN',
      visibleTo: 'caller',
      args: { shelf: arg.integer() },
      run: ({ args }) => `The code of shelf ${args.shelf} is 4711.`,
    });
    const layer = createCommandLayer({ commands: [pin], prefixes: ['!'], clock, log: silentLog, edits: '2m' });
    await platform.serve(layer);
    const typed = (text: string, more: object) =>
      platform.send(platform.typed({ person: 'ines', place: 'oddmere', text, ...more }));
    await typed('!pin x', { id: 'line-1' });
    const { outcome } = await typed('!pin 7', { edits: 'line-1' });
    expect(outcome).toMatchObject({ delivery: { delivered: true, as: 'tell', seenBy: 'caller' } });
    for (const { notice, place, earlier } of platform.posts) {
      if (place.kind === 'guild') expect(JSON.stringify([notice, earlier])).not.toContain('4711');
    }
    expect(platform.posts.at(-1)?.notice.body).toContain('4711');
  });

  test('that becomes chat leaves its reply, and may still be corrected', async () => {
    const { types } = await scene();
    await types('!fine wren 5x');
    expect((await types('fine with me', { edits: 'line-1' })).outcome.status).toBe('ignored');
    expect((await types('!fine wren 5', { edits: 'line-1' })).outcome.status).toBe('completed');
  });
});

describe('a line at the console about a place', () => {
  const fine = command({
    name: 'fine',
    description: 'Charge a member',
    in: 'guild',
    args: { who: arg.member() },
    requires: ({ caller }) => [caller.can('fine')],
    run: ({ args, channel }) => `${args.who.name} in ${channel.name}`,
  });

  test('finds the people there, and is answered at the console alone', async () => {
    const { platform } = await sceneOf([fine], { console: { can: ['fine'] } });
    const { outcome, posts } = await platform.send(
      platform.typed({ surface: 'console', place: 'oddmere/counter', text: 'fine wren' }),
    );
    expect(told(outcome)).toBe('Wren in #counter');
    expect(posts.map(({ place, visibleTo }) => [place.kind, visibleTo])).toEqual([['console', 'console']]);
    const nobody = await platform.send(platform.typed({ surface: 'console', place: 'oddmere', text: 'fine' }));
    expect(told(nobody.outcome)).toBe('“who” is missing: a person here, by mention or name.');
  });

  test('needs one where its command does', async () => {
    const { platform } = await sceneOf([fine], { console: { can: ['fine'] } });
    const { outcome } = await platform.send(platform.typed({ place: 'console', text: 'fine wren' }));
    expect(told(outcome)).toBe('“fine” works only for a channel. Say for which.');
  });

  test('gets no right from a guild, whoever is called console there', async () => {
    const store = memoryStore();
    const settings = guildSettings({ store });
    const { platform } = await sceneOf([fine], { settings, store });
    await settings.change('stand-in/oddmere', () => ({
      rules: [
        { command: 'fine', member: 'console', verdict: 'grant' },
        { command: 'fine', channel: 'oddmere/counter', verdict: 'grant' },
      ],
    }));
    const { outcome } = await platform.send(
      platform.typed({ surface: 'console', place: 'oddmere/counter', text: 'fine wren' }),
    );
    expect(codeOf(outcome)).toBe('permission.caller');
  });
});

test('a tryout has files, edits, and lines at the console about a place', async () => {
  const clock = virtualClock(startOfAfternoon);
  const platform = standIn(oddmereData().world, { clock });
  const thank = command({
    name: 'thank',
    description: 'Thank a member',
    args: { who: arg.member(), how: arg.attachment({ max: 10, optional: true }) },
    run: async ({ args: { who, how } }) =>
      `Thank you, ${who.name}${how === undefined ? '' : `, ${(await how.read()).length}`}.`,
  });
  const layer = createCommandLayer({ commands: [thank], prefixes: ['!'], clock, log: silentLog, edits: '1m' });
  const expects = (says: string, more: object = {}) => ({ expect: { status: 'completed', says, ...more } });
  const file = { name: 'card.txt', type: 'text/plain', content: 'the saw' };
  const tryout = checkTryout({
    tryout: 'Thanks',
    begins: '2026-05-09T13:00:00Z',
    lines: [
      {
        place: 'oddmere',
        surface: 'console',
        types: 'thank wren',
        ...expects('Thank you, Wren.', { seenBy: 'caller' }),
      },
      { person: 'ines', place: 'oddmere', types: '!thank wren', files: [file], ...expects('Thank you, Wren, 7.') },
      {
        person: 'ines',
        place: 'oddmere',
        invokes: 'thank',
        options: { who: 'wren' },
        files: { how: file },
        ...expects(', 7.'),
      },
      { person: 'ines', place: 'oddmere', id: 'one', types: '!thank', expect: { status: 'invalid' } },
      {
        person: 'ines',
        place: 'oddmere',
        edits: 'one',
        types: '!thank wren',
        ...expects('Thank you, Wren.', { shows: 'is missing' }),
      },
    ],
  });
  const differences: string[] = [];
  for await (const played of playTryout(tryout, { layer, platform } as never, clock))
    if (played.kind === 'exchange') differences.push(...played.differences.map(mismatchInWords));
  expect(differences).toEqual([]);
});
