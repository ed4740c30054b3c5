import fc from 'fast-check';
import { command, memoryStore } from 'taxeon';
import { virtualClock } from 'taxeon/testing';
import { describe, expect, test } from 'vitest';
import { codeOf, saltmarsh, sceneOf } from './support/saltmarsh.js';

describe('a cooldown', () => {
  test('is shared by all spellings and surfaces, and passes', async () => {
    const scene = await saltmarsh();
    expect((await scene.types('tobias', '!borrow drill')).outcome.status).toBe('completed');
    scene.clock.advance(60_000);
    expect((await scene.types('tobias', '!TAKE spade')).outcome.status).toBe('completed');
    const refused = {
      status: 'refused',
      code: 'cooldown.active',
      parameters: { counts: 'user', retryAfterMs: 9 * 60_000 },
    };
    expect((await scene.types('tobias', '!take ladder')).outcome).toMatchObject(refused);
    expect((await scene.invokes('tobias', 'borrow', { tool: 'ladder' })).outcome).toMatchObject(refused);
    expect((await scene.types('wren', '!take ladder')).outcome.status).toBe('completed');
    scene.clock.advance(9 * 60_000 - 1);
    expect(codeOf((await scene.types('tobias', '!take clamps')).outcome)).toBe('cooldown.active');
    scene.clock.advance(1);
    expect((await scene.types('tobias', '!take clamps')).outcome.status).toBe('completed');
  });

  test('of a guild counts all its members, and no other guild’s', async () => {
    const ping = command({ name: 'ping', description: 'Ping', cooldowns: { guild: '1m' }, run: () => 'pong' });
    const scene = await sceneOf([ping]);
    const at = async (by: string, place: string) => codeOf((await scene.types(by, '!ping', place)).outcome);
    expect(await at('ines', 'saltmarsh/counter')).toBe('completed');
    expect(await at('wren', 'saltmarsh/workshop')).toBe('cooldown.active');
    expect(await at('ines', 'northgate')).toBe('completed');
    expect(await at('ines', 'direct')).toBe('completed');
    expect(await at('ines', 'direct')).toBe('cooldown.active');
    expect(await at('wren', 'direct')).toBe('completed');
  });

  test('is not taken by a call that another cooldown refuses', async () => {
    const ping = command({
      name: 'ping',
      description: 'Ping',
      cooldowns: { user: '2 in 1m', guild: '3 in 1m' },
      run: () => 'pong',
    });
    const scene = await sceneOf([ping]);
    const by = async (person: string) => (await scene.types(person, '!ping')).outcome;
    for (const person of ['ines', 'ines', 'ines', 'ines', 'wren']) await by(person);
    expect(await by('wren')).toMatchObject({ code: 'cooldown.active', parameters: { counts: 'guild' } });
  });

  test('tells the wait rounded up, and in words', async () => {
    const ping = command({ name: 'ping', description: 'Ping', cooldowns: { user: '90s' }, run: () => 'pong' });
    const scene = await sceneOf([ping]);
    await scene.types('wren', '!ping');
    scene.clock.advance(100);
    const { posts } = await scene.types('wren', '!ping');
    expect(posts[0]?.notice.body).toBe('That was quick. Try again in 1 minute 30 seconds.');
  });

  test('whose store does not answer refuses with a reference', async () => {
    const ping = command({ name: 'ping', description: 'Ping', cooldowns: { user: '90s' }, run: () => 'pong' });
    const broken = { ...memoryStore(), acquire: () => Promise.reject(new Error('gone')) };
    const scene = await sceneOf([ping], { store: broken, reference: () => 'abcd2345' });
    expect((await scene.types('wren', '!ping')).outcome).toMatchObject({
      code: 'store.unavailable',
      parameters: { reference: 'abcd2345' },
    });
  });
});

describe('the memory store', () => {
  const step = fc.oneof(
    fc.record({ do: fc.constant('acquire' as const), key: fc.constantFrom('a', 'b') }),
    fc.record({ do: fc.constant('give back' as const), key: fc.constantFrom('a', 'b') }),
    fc.record({ do: fc.constant('wait' as const), ms: fc.integer({ min: -50, max: 120 }) }),
  );

  test('agrees with a plain list of times, clock steps both ways included', () => {
    fc.assert(
      fc.property(fc.array(step, { maxLength: 80 }), fc.integer({ min: 1, max: 4 }), (steps, uses) => {
        const clock = virtualClock(1000);
        const store = memoryStore({ clock });
        const limit = { id: 'test', uses, windowMs: 100 };
        const times = new Map<string, number[]>();
        let latest = Number.NEGATIVE_INFINITY;
        for (const action of steps) {
          if (action.do === 'wait') {
            clock.advance(action.ms);
            continue;
          }
          const list = times.get(action.key) ?? [];
          times.set(action.key, list);
          if (action.do === 'give back') {
            const last = list.pop();
            if (last !== undefined) store.giveBack([limit], [action.key], last);
            continue;
          }
          latest = Math.max(latest, clock.now());
          const live = list.filter((time) => time > latest - limit.windowMs);
          const verdict = store.acquire([limit], [action.key]);
          if (live.length < uses) {
            expect(verdict).toEqual({ granted: true, at: latest });
            list.push(latest);
          } else {
            const endsAt = (live.at(-uses) ?? 0) + limit.windowMs;
            expect(verdict).toEqual({ granted: false, index: 0, retryAfterMs: endsAt - latest, endsAt });
          }
        }
      }),
    );
  });
});
