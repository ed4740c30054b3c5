import { command } from 'taxeon';
import { checkWorld, createStandIn, type StandIn, WorldError } from 'taxeon/stand-in';
import { checkTryout, type PlatformProbe, platformTrials, playTryout, TryoutError, virtualClock } from 'taxeon/testing';
import { describe, expect, test } from 'vitest';
import { codeOf, saltmarshData, sceneOf } from './support/saltmarsh.js';

/** Drives a stand-in as a person in a channel would: by typing and by reading what appears. */
function probeOf(platform: StandIn): PlatformProbe {
  let read = 0;
  return {
    platform,
    somebody: { name: 'Wren' },
    async type(line) {
      await platform.send(platform.typed({ by: 'wren', at: 'saltmarsh/counter', text: line }));
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
    test(trial.name, () => trial.run(probeOf(createStandIn(saltmarshData().world))));
  }
});

describe('a trial fails where the contract is not kept', () => {
  const broken: [string, Partial<StandIn>][] = [
    ['hands a typed line to the layer, and its reply to the channel', { deliver: () => undefined }],
    ['says every line of a reply', { deliver: () => undefined }],
    [
      'gives one id to one person, and finds them by it and by name',
      { directory: { ...createStandIn(saltmarshData().world).directory, membersNamed: () => [] } },
    ],
    [
      'knows the bot itself in the guild, and nobody who is not there',
      { directory: { ...createStandIn(saltmarshData().world).directory, self: () => undefined } },
    ],
  ];
  test.each(broken)('%s', async (name, fault) => {
    const platform = createStandIn(saltmarshData().world);
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
  const { world } = saltmarshData();
  const [saltmarsh] = world.guilds;
  if (saltmarsh === undefined) throw new Error('there is no guild');
  const wrong = { ...world, guilds: [{ ...saltmarsh, owner: 'nobody', members: { ines: ['stewart'] } }] };
  expect(() => checkWorld(wrong)).toThrow(
    new WorldError([
      'guilds.0.owner: there is no person "nobody"',
      'guilds.0.members.ines: there is no role "stewart"',
    ]),
  );
  expect(() => checkWorld({ people: 'many' })).toThrow(WorldError);
});

describe('a tryout', () => {
  const play = async (steps: unknown[]) => {
    const clock = virtualClock();
    const { layer, platform } = await sceneOf([command({ name: 'ping', description: 'Ping', run: () => 'pong' })]);
    const tryout = checkTryout({ tryout: 'Ping', begins: '2026-05-09T13:00:00Z', steps });
    const differences: string[] = [];
    for await (const played of playTryout(tryout, { layer, platform }, clock)) {
      if (played.kind === 'exchange') differences.push(...played.differences);
    }
    return { differences, clock };
  };

  test('tells what is not as expected', async () => {
    const ping = { by: 'wren', at: 'saltmarsh', types: '!ping' };
    expect(
      (await play([{ ...ping, expect: { status: 'completed', says: 'pong', seenBy: 'everyone' } }])).differences,
    ).toEqual([]);
    const { differences } = await play([
      { ...ping, expect: { status: 'refused', code: 'tool.out', says: 'ping', seenBy: 'caller' } },
    ]);
    expect(differences).toEqual([
      'status is completed, expected refused',
      'code is none, expected tool.out',
      'the reply is "pong", expected it to say "ping"',
      'seen by is everyone, expected caller',
    ]);
  });

  test('waits on the virtual clock', async () => {
    expect((await play([{ wait: '1h30m' }])).clock.now()).toBe(5_400_000);
  });

  test('that does not read is refused with the step', () => {
    const wrong = { tryout: 'x', begins: '2026-05-09T13:00:00Z', steps: [{ wait: 'a bit' }] };
    expect(() => checkTryout(wrong)).toThrow(TryoutError);
    expect(() => checkTryout(wrong)).toThrow(/steps\.0/);
    expect(() => checkTryout({ ...wrong, steps: [], begins: 'noon' })).toThrow(/begins: give a moment/);
  });
});

test('codes of the layer and of the handler are told apart', async () => {
  const scene = await sceneOf([]);
  expect(codeOf((await scene.invokes('wren', 'ping')).outcome)).toBe('command.unknown');
});
