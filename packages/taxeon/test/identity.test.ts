/** Who and where is meant is a platform's name with an id: two platforms on one layer share nothing. */

import { type StandIn, standIn, virtualClock } from '@taxeon/testing';
import {
  command,
  countUsage,
  createCommandLayer,
  guildSettings,
  type Key,
  keyOf,
  type LayerOptions,
  memoryStore,
} from 'taxeon';
import { forgetPerson, liveUsesOf, usageOf } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { codeOf, oddmereData, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

/** Two platforms with the same guilds and people, told apart by their names alone. */
function twins(options: Omit<LayerOptions, 'commands'>, ...commands: LayerOptions['commands'] & readonly object[]) {
  const clock = virtualClock(startOfAfternoon);
  const own = standIn(oddmereData().world, { clock });
  const other: StandIn = { ...standIn(oddmereData().world, { clock }), name: 'other' };
  const layer = createCommandLayer({ prefixes: ['!'], log: silentLog, clock, ...options, commands });
  const says = async (platform: StandIn, text: string, more: object = {}) =>
    layer.handle(platform.typed({ person: 'wren', place: 'oddmere', text, ...more }), platform);
  return { layer, own, other, clock, says };
}

const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' });
const own = command({
  name: 'own',
  description: 'For owners',
  requires: ({ caller }) => [caller.ownsBot()],
  run: () => 'Yours.',
});

describe('two platforms with guilds and people of the same ids share', () => {
  test('no owners', async () => {
    const { says, own: one, other } = twins({ owners: ['stand-in/wren'] }, own);
    expect([codeOf(await says(one, '!own')), codeOf(await says(other, '!own'))]).toEqual([
      'completed',
      'permission.caller',
    ]);
  });

  test('no settings, in memory or in the store', async () => {
    const store = memoryStore();
    const settings = guildSettings({ guilds: { 'other/oddmere': { off: ['lamp'] } }, store, log: silentLog });
    const { says, own: one, other } = twins({ settings }, lamp);
    expect([codeOf(await says(one, '!lamp')), codeOf(await says(other, '!lamp'))]).toEqual([
      'completed',
      'command.unavailable',
    ]);
    await settings.change('stand-in/oddmere', () => ({ prefixes: ['?'] }));
    expect((await settings.load('other/oddmere')).prefixes).toBeUndefined();
    expect((await store.entries('settings/')).map(([key]) => key)).toEqual(['settings/stand-in/oddmere']);
  });

  test('no rules, no cooldowns and no told refusals', async () => {
    const rule = { command: 'lamp', member: 'pim', verdict: 'deny' } as const;
    const settings = guildSettings({ guilds: { 'other/oddmere': { rules: [rule] } } });
    const bell = command({ ...lamp.declaration, name: 'bell', cooldowns: { user: '1 in 1m' } });
    const { says, own: one, other } = twins({ settings, damping: '1 in 1h' }, lamp, bell);
    const by = { person: 'pim' };
    expect(codeOf(await says(one, '!lamp', by))).toBe('completed');
    expect(codeOf(await says(other, '!lamp', by))).toBe('permission.caller');
    for (const platform of [one, other]) {
      expect(codeOf(await says(platform, '!bell'))).toBe('completed');
      expect(await says(platform, '!bell')).toMatchObject({ code: 'cooldown.active', delivery: { delivered: true } });
    }
  });

  test('no event ids, and nor do two channels of one platform', async () => {
    const { says, own: one, other } = twins({}, lamp);
    const event = { id: 'event-1' };
    expect((await says(one, '!lamp', event)).status).toBe('completed');
    expect((await says(one, '!lamp', event)).status).toBe('ignored');
    expect((await says(other, '!lamp', event)).status).toBe('completed');
    expect((await says(one, '!lamp', { ...event, place: 'pellbrook' })).status).toBe('completed');
    expect((await says(one, '!lamp', { ...event, person: 'ines' })).status).toBe('completed');
  });

  test('no counters or events whose parts run into each other', async () => {
    const store = memoryStore();
    const bell = command({ ...lamp.declaration, name: 'bell', in: 'guild', cooldowns: { userHere: '1 in 1m' } });
    const { layer, own: one } = twins({ store, repeats: 'store' }, bell);
    const input = one.typed({ person: 'ines', place: 'oddmere', text: '!bell' });
    const said = async (guild: string, person: string, channel: string, id: string) =>
      codeOf(
        await layer.handle(
          {
            ...input,
            id,
            caller: { ...input.caller, id: person } as never,
            place: { kind: 'guild', guild: { id: guild, name: guild }, channel: { id: channel, name: channel } },
          },
          one,
        ),
      );
    expect(await said('a b', 'c', 'x', 'e1')).toBe('completed');
    expect(await said('a', 'b c', 'x', 'e2')).toBe('completed');
    expect(await said('a', 'd', 'x', 'y e')).toBe('completed');
    expect(await said('a', 'f', 'x y', 'e')).toBe('completed');
    expect((await liveUsesOf(layer, 'c')).length).toBe(1);
    expect(await forgetPerson(layer, 'stand-in/c')).toMatchObject({ limits: 1 });
    expect((await liveUsesOf(layer, 'b c')).length).toBe(1);
  });

  test('no scopes', async () => {
    const here = command({ ...lamp.declaration, name: 'here', scope: 'library' });
    const { says, own: one, other } = twins({ scopes: { library: ['stand-in/oddmere'] } }, here);
    expect([codeOf(await says(one, '!here')), codeOf(await says(other, '!here'))]).toEqual([
      'completed',
      'command.unavailable',
    ]);
  });

  test('no counts', async () => {
    const store = memoryStore();
    const { says, layer, own: one, other } = twins({ usage: countUsage, store }, lamp);
    for (const platform of [one, one, other]) await says(platform, '!lamp');
    await layer.close();
    expect((await usageOf(layer)).map(({ platform, count }) => [platform, count])).toEqual([
      ['stand-in', 2],
      ['other', 1],
    ]);
  });
});

test('two platforms of one name are not served by one layer, and the one that is serves on', async () => {
  const { layer, own: one } = twins({}, lamp);
  await one.serve(layer);
  const same = standIn(oddmereData().world);
  await expect(same.serve(layer)).rejects.toThrow('Two platforms are called stand-in');
  const typed = (on: StandIn) => on.typed({ person: 'wren', place: 'oddmere', text: '!lamp' });
  await expect(same.send(typed(same))).rejects.toThrow('No layer is served');
  expect((await one.send(typed(one))).outcome.status).toBe('completed');
  await one.serve(layer);
});

test('no set of guilds has the name of all of them', () => {
  expect(() => createCommandLayer({ commands: [lamp], scopes: { everywhere: ['irc/#oddmere'] } })).toThrow(
    /scopes: everywhere is taken; name the set otherwise/,
  );
});

describe('a key', () => {
  test.each(['odalys', '/odalys', 'irc/', '', 7, null])(
    'that is none, %j, is a problem wherever it is configured',
    (key) => {
      const given = key as Key;
      expect(() => createCommandLayer({ commands: [lamp], owners: [given] })).toThrow(/owners: .*names no platform/);
      expect(() => createCommandLayer({ commands: [lamp], scopes: { staging: [given] } })).toThrow(
        /scopes\.staging: .*names no platform/,
      );
      expect(() => guildSettings({ guilds: { [String(given)]: {} } })).toThrow(/names no platform/);
    },
  );

  test('in place of a list is one, too, and not each of its letters', () => {
    expect(() => createCommandLayer({ commands: [lamp], owners: 'irc/odalys' as never })).toThrow(
      /owners: is "irc\/odalys"; give a list/,
    );
  });

  test('of a handler’s guild opens its settings', async () => {
    const settings = guildSettings({ guilds: { 'stand-in/oddmere': { timeZone: 'Europe/London' } } });
    const zone = command({
      name: 'zone',
      description: 'Which time holds',
      in: 'guild',
      run: async ({ platform, guild }) => (await settings.load(keyOf(platform, guild.id))).timeZone ?? 'none',
    });
    const { says, own: one } = twins({ settings }, zone);
    await says(one, '!zone');
    expect(one.posts.at(-1)?.notice.body).toBe('Europe/London');
  });
});

describe('events of one person', () => {
  test('that are too many cost that person alone, and let no old delivery run again', async () => {
    const { says, own: one, clock } = twins({ damping: 'off' }, lamp);
    const first = { id: 'first' };
    expect((await says(one, '!lamp', first)).status).toBe('completed');
    for (let n = 0; n < 3000; n++) await says(one, '!lamp', { id: `flood-${n}` });
    expect((await says(one, '!lamp', { id: 'one more' })).status).toBe('ignored');
    expect((await says(one, '!lamp', first)).status).toBe('ignored');
    expect((await says(one, '!lamp', { id: 'of Ines', person: 'ines' })).status).toBe('completed');
    clock.advance(599_000);
    expect((await says(one, '!lamp', first)).status).toBe('ignored');
    clock.advance(900_000);
    expect((await says(one, '!lamp', { id: 'one more' })).status).toBe('completed');
  });
});
