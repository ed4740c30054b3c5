import { readFile } from 'node:fs/promises';
import {
  checkWorld,
  readSlashLine,
  type StandIn,
  standIn,
  virtualClock,
  WorldError,
  writeSlashLine,
} from '@taxeon/testing';
import { type PlatformProbe, platformTrials } from '@taxeon/testing/trials';
import { checkTryout, mismatchInWords, playTryout, TryoutError } from '@taxeon/testing/tryouts';
import fc from 'fast-check';
import { command, createCommandLayer } from 'taxeon';
import { type Input, plainMarkup } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, oddmereFile, sceneOf, silentLog } from '../../../test/support/oddmere.js';
import { until } from '../../../test/support/programs.js';

/** Drives a stand-in as people in a channel would: by typing, and by reading what appears. */
function probeOf(platform: StandIn): PlatformProbe {
  const read = { everyone: 0, caller: 0 };
  let latest: Input | undefined;
  const place = 'oddmere/counter';
  const next = async (by: 'everyone' | 'caller') => {
    const lines = () =>
      platform.posts
        .filter(
          ({ visibleTo, place: where }) =>
            (visibleTo !== 'everyone' || where.kind === 'direct' ? 'caller' : 'everyone') === by,
        )
        .flatMap(({ notice: { heading, body } }) => [...(heading === undefined ? [] : [heading]), ...body.split('\n')])
        .map(plainMarkup);
    const index = read[by]++;
    await until(() => lines().length > index, 'something is said');
    return lines()[index] ?? '';
  };
  const send = async (input: Input) => {
    latest = input;
    await platform.send(input);
  };
  const typing = (person: string) => (line: string) => send(platform.typed({ person, place, text: line }));
  return {
    platform,
    somebody: { name: 'Wren' },
    type: typing('wren'),
    heard: () => next('everyone'),
    other: { name: 'Ines', type: typing('ines') },
    whisper: (line) => send(platform.typed({ person: 'wren', place: 'direct', text: line })),
    heardAlone: () => next('caller'),
    invoke: (path, options) => send(platform.invoked({ person: 'wren', place, path, options })),
    addressing: '@mallet ',
    redeliver: async () => {
      if (latest !== undefined) await platform.send(latest);
    },
    shown: async () => platform.posts.filter(({ goneAt }) => goneAt === undefined).map(({ notice }) => notice.body),
    // It cannot be taken away a second time.
    stands: async () => {
      try {
        if (latest !== undefined) await platform.removeInput?.(latest, 'a trial');
        return true;
      } catch {
        return false;
      }
    },
  };
}

describe('the stand-in keeps the platform contract', () => {
  for (const trial of platformTrials) {
    test(trial.name, async (context) => {
      const skipped = await trial.run(probeOf(standIn(oddmereData().world, { replyDeadline: { ms: 300 } })));
      if (skipped !== undefined) context.skip(skipped);
    });
  }
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
      if (played.kind === 'exchange') differences.push(...played.differences.map(mismatchInWords));
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
      'status: expected refused, and it was completed',
      'code: expected tool.out, and it was none',
      'the reply: expected something with “The drill”, and it was “The lamp is lit.”',
      'seenBy: expected caller, and it was everyone',
    ]);
  });

  test('lets files be read before time runs on', async () => {
    const clock = virtualClock();
    const read = command({
      name: 'read',
      description: 'Read the shelf list',
      timeout: '2s',
      run: async () => {
        for (let times = 0; times < 100; times++) await readFile(oddmereFile);
        return 'Read.';
      },
    });
    const layer = createCommandLayer({ commands: [read], prefixes: ['!'], clock, log: silentLog });
    const platform = standIn(oddmereData().world, { clock });
    const line = { person: 'wren', place: 'oddmere', types: '!read', expect: { status: 'completed' } };
    const tryout = checkTryout({ tryout: 'Files', begins: '2026-05-09T13:00:00Z', lines: [line] });
    for await (const played of playTryout(tryout, { layer, platform }, clock))
      expect(played).toMatchObject({ differences: [] });
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
