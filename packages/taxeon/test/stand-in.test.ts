import fc from 'fast-check';
import { command } from 'taxeon';
import { checkWorld, createStandIn, readSlashLine, type StandIn, WorldError, writeSlashLine } from 'taxeon/stand-in';
import { checkTryout, type PlatformProbe, platformTrials, playTryout, TryoutError, virtualClock } from 'taxeon/testing';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, sceneOf } from './support/oddmere.js';

/** Drives a stand-in as a person in a channel would: by typing and by reading what appears. */
function probeOf(platform: StandIn): PlatformProbe {
  let read = 0;
  return {
    platform,
    somebody: { name: 'Wren' },
    async type(line) {
      await platform.send(platform.typed({ person: 'wren', place: 'oddmere/counter', text: line }));
    },
    async heard() {
      const lines = platform.posts
        .flatMap(({ notice }) => [notice.heading, notice.body])
        .filter((line) => line !== undefined);
      const line = lines[read++];
      if (line === undefined) throw new Error('nothing was said');
      return line;
    },
  };
}

describe('the stand-in keeps the platform contract', () => {
  for (const trial of platformTrials) {
    test(trial.name, () => trial.run(probeOf(createStandIn(oddmereData().world))));
  }
});

describe('a trial fails where the contract is not kept', () => {
  const broken: [string, Partial<StandIn>][] = [
    ['hands a typed line to the layer, and its reply to the channel', { deliver: () => undefined }],
    ['says every line of a reply', { deliver: () => undefined }],
    [
      'gives one id to one person, and finds them by it and by name',
      { directory: { ...createStandIn(oddmereData().world).directory, membersNamed: () => [] } },
    ],
    [
      'knows the bot itself in the guild, and nobody who is not there',
      { directory: { ...createStandIn(oddmereData().world).directory, self: () => undefined } },
    ],
    [
      'says once that it is connected, with what serves, and who the bot is',
      { serve: async () => ({ close: async () => undefined }) },
    ],
    [
      'says once that it is connected, with what serves, and who the bot is',
      { directory: { ...createStandIn(oddmereData().world).directory, bot: () => undefined } },
    ],
  ];
  test.each(broken)('%s', async (name, fault) => {
    const platform = createStandIn(oddmereData().world);
    Object.assign(platform, fault);
    const trial = platformTrials.find((one) => one.name === name);
    await expect(trial?.run(probeOf(platform))).rejects.toThrow();
  });
});

test('a slash invocation whose time has passed is gone: the answer comes as a plain post', async () => {
  const scene = await sceneOf([
    command({
      name: 'slow',
      description: 'Slow',
      run: async () => {
        scene.clock.advance(5000);
        return 'late';
      },
    }),
  ]);
  const { outcome, posts } = await scene.invokes('wren', 'slow');
  expect(outcome).toMatchObject({ status: 'completed', delivery: { delivered: true, as: 'post' } });
  expect(posts).toMatchObject([{ notice: { body: 'late' }, visibleTo: 'everyone' }]);
  expect((await scene.types('wren', '!slow')).outcome).toMatchObject({
    status: 'completed',
    delivery: { delivered: true },
  });
});

test('a world that does not hold together is told whole', () => {
  const { world } = oddmereData();
  const [oddmere] = world.guilds;
  if (oddmere === undefined) throw new Error('there is no guild');
  const wrong = { ...world, guilds: [{ ...oddmere, owner: 'nobody', members: { ines: ['stewart'] } }] };
  expect(() => checkWorld(wrong)).toThrow(
    new WorldError([
      'guilds.0.owner: there is no person "nobody"',
      'guilds.0.members.ines: there is no role "stewart"',
    ]),
  );
  expect(() => checkWorld({ people: 'many' })).toThrow(WorldError);
});

describe('a tryout', () => {
  const play = async (lines: unknown[]) => {
    const clock = virtualClock();
    const { layer, platform } = await sceneOf([
      command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' }),
    ]);
    const tryout = checkTryout({ tryout: 'A lamp', begins: '2026-05-09T13:00:00Z', lines });
    const differences: string[] = [];
    for await (const played of playTryout(tryout, { layer, platform }, clock)) {
      if (played.kind === 'exchange') differences.push(...played.differences);
    }
    return { differences, clock };
  };

  test('tells what is not as expected', async () => {
    const lamp = { person: 'wren', place: 'oddmere', types: '!lamp' };
    expect(
      (await play([{ ...lamp, expect: { status: 'completed', says: 'The lamp is lit.', seenBy: 'everyone' } }]))
        .differences,
    ).toEqual([]);
    const { differences } = await play([
      { ...lamp, expect: { status: 'refused', code: 'tool.out', says: 'The drill', seenBy: 'caller' } },
    ]);
    expect(differences).toEqual([
      'status is completed, expected refused',
      'code is none, expected tool.out',
      'the reply is "The lamp is lit.", expected it to say "The drill"',
      'seen by is everyone, expected caller',
    ]);
  });

  test('waits on the virtual clock', async () => {
    expect((await play([{ wait: '1h30m' }])).clock.now()).toBe(5_400_000);
  });

  test('that does not read is refused with the line', () => {
    const wrong = { tryout: 'x', begins: '2026-05-09T13:00:00Z', lines: [{ wait: 'a bit' }] };
    expect(() => checkTryout(wrong)).toThrow(TryoutError);
    expect(() => checkTryout(wrong)).toThrow(/lines\.0/);
    expect(() => checkTryout({ ...wrong, lines: [], begins: 'noon' })).toThrow(/begins: give a moment/);
  });
});

test('codes of the layer and of the handler are told apart', async () => {
  const scene = await sceneOf([]);
  expect(codeOf((await scene.invokes('wren', 'lamp')).outcome)).toBe('command.unknown');
});

test('a slash call is written as it is typed, and reads back', () => {
  expect(writeSlashLine(['fine'], { who: 'tobias', pence: 150 })).toBe('/fine who=tobias pence=150');
  expect(writeSlashLine(['overdue', 'remind'], { note: 'on "Monday"' })).toBe('/overdue remind note="on \\"Monday\\""');
  const name = fc.stringMatching(/^[a-z]{1,8}$/);
  const options = fc.dictionary(name, fc.string({ unit: 'grapheme' }), { noNullPrototype: true });
  fc.assert(
    fc.property(fc.array(name, { minLength: 1, maxLength: 3 }), options, (path, given) => {
      expect(readSlashLine(writeSlashLine(path, given))).toEqual({ path, options: given });
    }),
  );
});
