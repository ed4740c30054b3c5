import fc from 'fast-check';
import { arg, command, createCommandLayer, type LayerOptions, memoryStore, type Store } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import type { Input } from 'taxeon/platform';
import { explain } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { fine } from '../../../test/support/asking.js';
import { codeOf, oddmere, type Scene, sceneOf, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const statuses = new Set(['completed', 'refused', 'invalid', 'failed', 'ignored']);

describe('whatever somebody sends gets an ordinary outcome', () => {
  const megabyte = 1_000_000;
  const lines: [string, string, string][] = [
    ['a megabyte of words', `!borrow ${'drill '.repeat(megabyte / 6)}`, 'argument.invalid'],
    ['a megabyte in one word', `!borrow ${'a'.repeat(megabyte)}`, 'argument.invalid'],
    ['a megabyte of quotes', `!borrow ${'"'.repeat(megabyte)}`, 'argument.invalid'],
    ['a megabyte of backslashes', `!borrow ${'\\'.repeat(megabyte)}`, 'argument.invalid'],
    ['a megabyte of space', `!borrow${' '.repeat(megabyte)}`, 'argument.missing'],
    ['a megabyte as a name', `!${'borrow'.repeat(megabyte / 6)}`, 'command.unknown'],
    ['a megabyte of digits', `!fine wren ${'9'.repeat(megabyte)}`, 'argument.invalid'],
    ['only quotes', '!"""', 'command.unknown'],
    ['NUL and control characters', '!borrow \0\x01\x02\x1b[31m', 'argument.invalid'],
    ['lone surrogates', '!borrow \ud800\udfff\ud83d', 'argument.invalid'],
    ['__proto__ as a command', '!__proto__', 'ignored'],
    ['constructor as a command', '!constructor', 'command.unknown'],
    ['toString as a command', '!toString', 'command.unknown'],
  ];
  test.each(lines)('%s', async (_, text, expected) => {
    expect(codeOf((await (await oddmere()).types('ines', text)).outcome)).toBe(expected);
  });

  const options: [string, unknown, string][] = [
    ['an unknown option', { tool: 'drill', colour: 'red' }, 'argument.unknown'],
    ['an option named __proto__', JSON.parse('{"tool":"drill","__proto__":{"keep":"1h"}}'), 'argument.unknown'],
    ['an object for a text', { tool: { $gt: '' } }, 'argument.invalid'],
    ['a list for a text', { tool: ['drill'] }, 'argument.invalid'],
    ['null for a text', { tool: null }, 'argument.missing'],
    ['a number for a duration', { tool: 'drill', keep: 3 }, 'argument.invalid'],
  ];
  test.each(options)('%s by slash', async (_, given, expected) => {
    const { outcome } = await (await oddmere()).invokes('ines', 'borrow', given as Record<string, unknown>);
    expect(codeOf(outcome)).toBe(expected);
  });

  test('any text at all', async () => {
    const scene = await oddmere();
    const typed = fc.oneof(
      fc.string({ unit: 'binary' }),
      fc
        .tuple(fc.constantFrom('borrow', 'fine', 'induct', 'shelf', ''), fc.string({ unit: 'binary' }))
        .map(([name, rest]) => `${name} ${rest}`),
    );
    await fc.assert(
      fc.asyncProperty(typed, async (text) => {
        expect(statuses).toContain((await scene.types('ines', `!${text}`)).outcome.status);
        expect(statuses).toContain((await scene.console(text)).outcome.status);
      }),
      { numRuns: 300 },
    );
  });

  test('any options at all', async () => {
    const scene = await oddmere();
    await fc.assert(
      fc.asyncProperty(
        fc.dictionary(fc.oneof(fc.string(), fc.constantFrom('who', 'pence', 'tool')), fc.anything()),
        async (given) => {
          expect(statuses).toContain((await scene.invokes('ines', 'fine', given)).outcome.status);
        },
      ),
    );
  });
});

describe('what somebody typed is repeated neutralised and shortened', () => {
  const echoed: [string, string][] = [
    ['@all', '“@\u2060all”'],
    ['a\u202eb', '“ab”'],
    ['x'.repeat(300), `“${'x'.repeat(40)}…”`],
    ['`code`', '“ˋcodeˋ”'],
    ['<script>', '“<\u2060script>\u2060”'],
    ['&amp;', '“&\u2060amp;”'],
  ];
  test.each(echoed)('%s', async (typed, expected) => {
    const { posts } = await (await oddmere()).types('ines', `!fine tobias ${typed}`);
    expect(posts[0]?.notice.body).toContain(expected);
  });
});

describe('what is not answered', () => {
  const chat = ['good morning', '!', '!!!', '! borrow drill', '!?', '', '!-', 'x!borrow drill', '¡borrow'];
  test.each(chat)('ordinary chat: %j', async (text) => {
    expect((await (await oddmere()).types('ines', text)).outcome).toEqual({ status: 'ignored', because: 'chat' });
  });

  test('other bots, and the bot itself', async () => {
    const { outcome, posts } = await (await oddmere()).types('mallet', '!shelf');
    expect({ outcome, posts }).toEqual({ outcome: { status: 'ignored', because: 'bot' }, posts: [] });
  });

  test('the same event delivered twice', async () => {
    const { layer, platform } = await oddmere();
    const once = platform.typed({ person: 'wren', place: 'oddmere', text: '!borrow drill', id: 'e-1' });
    expect((await layer.handle(once, platform)).status).toBe('completed');
    expect(await layer.handle({ ...once }, platform)).toEqual({ status: 'ignored', because: 'repeated' });
  });

  describe('the same event delivered to several processes, with `repeats: store`', () => {
    /** As many processes on one store, of which each has run so often. */
    async function processes(count: number, store: Store, options: Partial<LayerOptions> = {}) {
      const ran = Array.from({ length: count }, () => 0);
      const scenes = await Promise.all(
        ran.map((_, index) => {
          const run = () => {
            ran[index] = (ran[index] ?? 0) + 1;
            return 'The lamp is lit.';
          };
          const lamp = command({ name: 'lamp', description: 'Light the lamp', run });
          return sceneOf([lamp], { store, repeats: 'store', ...options });
        }),
      );
      const deliver = (input: Input) => Promise.all(scenes.map(({ layer, platform }) => layer.handle(input, platform)));
      const [{ platform, layer }] = scenes as [Scene, ...Scene[]];
      const line = (id: string) => platform.typed({ person: 'wren', place: 'oddmere', text: '!lamp', id });
      return { ran, deliver, line, layer, platform };
    }
    /** One that answers later, as over a network. */
    const distant = (inner: Store): Store => ({
      ...inner,
      compareAndSet: async (...given) => inner.compareAndSet(...given),
      read: async (key) => inner.read(key),
    });

    test.each([
      ['at once', memoryStore()],
      ['later', distant(memoryStore())],
    ])('runs once, where the store answers %s', async (_, store) => {
      const { ran, deliver, line } = await processes(4, store);
      for (let event = 0; event < 20; event++) {
        const outcomes = await deliver(line(`e-${event}`));
        expect(outcomes.map(({ status }) => status).sort()).toEqual(['completed', 'ignored', 'ignored', 'ignored']);
      }
      expect(ran.reduce((sum, count) => sum + count)).toBe(20);
      const { layer, platform } = await processes(1, store);
      const looked = async (id: string) => (await explain(layer, line(id), platform)).status;
      expect([await looked('e-1'), await looked('new')]).toEqual(['ignored', 'runs']);
      expect((await deliver(line('new'))).filter(({ status }) => status === 'completed')).toHaveLength(1);
    });

    test('is refused where the store does not say, or runs where that is allowed', async () => {
      const nothing = { ...memoryStore(), compareAndSet: () => undefined as never };
      const broken = { ...memoryStore(), compareAndSet: () => Promise.reject(new Error('no')) };
      for (const store of [nothing, broken]) {
        const refused = await processes(1, store);
        expect((await refused.deliver(refused.line('e-1'))).map(codeOf)).toEqual(['store.unavailable']);
        const allowed = await processes(1, store, { outage: 'allow' });
        expect((await allowed.deliver(allowed.line('e-1'))).map(codeOf)).toEqual(['completed']);
      }
    });

    test('is heard as a question’s answer once', async () => {
      const store = memoryStore();
      const ask = () => sceneOf([fine], { store, repeats: 'store', asking: askInChat() });
      const [one, other] = [await ask(), await ask()];
      const said = (text: string, id: string) => one.platform.typed({ person: 'ines', place: 'oddmere', text, id });
      expect((await one.layer.handle(said('!fine Tobias', 'q'), one.platform)).status).toBe('waiting');
      const answer = said('50', 'a');
      const outcomes = await Promise.all([one, other].map((scene) => scene.layer.handle(answer, scene.platform)));
      expect(outcomes.filter(({ status }) => status === 'completed')).toHaveLength(1);
    });
  });
});

test('without a platform the outcome carries the reply, and nobody can be looked up', async () => {
  const echoing = command({
    name: 'jot',
    description: 'Jot something down',
    args: { text: arg.tail() },
    run: ({ args }) => args.text,
  });
  const fine = command({ name: 'fine', description: 'Fine', args: { who: arg.member() }, run: () => 'done' });
  const layer = createCommandLayer({ commands: [echoing, fine], prefixes: ['!', 'mallet'], log: silentLog });
  const input = (text: string): Input => ({
    surface: 'text',
    text,
    caller: { kind: 'user', id: 'wren', name: 'Wren' },
    place: { kind: 'guild', guild: { id: 'oddmere', name: 'Oddmere' }, channel: { id: 'c', name: 'c' } },
    at: startOfAfternoon,
  });
  expect(await layer.handle(input('Mallet  jot oiled\n today '))).toMatchObject({
    status: 'completed',
    reply: { notice: { body: 'oiled\n today' } },
    delivery: undefined,
  });
  expect(codeOf(await layer.handle(input('!fine wren')))).toBe('argument.invalid');
  expect((await layer.handle(input('malletjot oiled'))).status).toBe('ignored');
});
