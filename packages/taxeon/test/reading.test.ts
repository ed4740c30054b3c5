import { standIn, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import { type Arg, arg, command, createCommandLayer, type Outcome, type Problem } from 'taxeon';
import { lineFor } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { grammarScene } from '../../../test/support/grammar.js';
import { gist, oddmereData, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const world = oddmereData().world;
const described = { description: 'Anything', run: () => 'done' };

/** A kind with values of its own, for random declarations. */
interface Sample {
  readonly arg: (options: object) => Arg<unknown>;
  readonly value: fc.Arbitrary<unknown>;
  /** Any word fits it, so that it must be last where it is optional. */
  readonly isShapeless?: boolean;
}

const clock = virtualClock(startOfAfternoon);
const platformForValues = standIn(world, { clock });
const oddmere = platformForValues.directory.guilds.get('oddmere');
if (oddmere === undefined) throw new Error('there is no oddmere');
const members = [...oddmere.members.values()];
const words = fc.oneof(
  fc.string({ maxLength: 12 }),
  fc.string({ unit: 'binary', maxLength: 12 }),
  fc.constantFrom('a b', '"', '\\', '--days', "don't", '“x', '3d', '-5', '', ' ', ','),
);

const samples: readonly Sample[] = [
  { arg: (options) => arg.text(options), value: words, isShapeless: true },
  { arg: (options) => arg.integer(options), value: fc.maxSafeInteger().map((value) => value + 0) },
  {
    arg: (options) => arg.number(options),
    value: fc.integer({ min: -1e7, max: 1e7 }).map((value) => value / 1000 + 0),
  },
  { arg: (options) => arg.boolean(options), value: fc.boolean() },
  {
    arg: (options) => arg.choice(['lathe', 'welder', 'circular saw'], options),
    value: fc.constantFrom('lathe', 'welder', 'circular saw'),
  },
  { arg: (options) => arg.choice({ small: 10, large: 25 }, options), value: fc.constantFrom(10, 25) },
  { arg: (options) => arg.duration(options), value: fc.nat({ max: 1e12 }) },
  {
    arg: (options) => arg.datetime(options),
    value: fc.date({ min: new Date('0001-01-01'), max: new Date('9999-12-30'), noInvalidDate: true }),
  },
  { arg: (options) => arg.member({ ...options, orBot: true }), value: fc.constantFrom(...members), isShapeless: true },
  {
    arg: (options) => arg.user(options),
    value: fc.constantFrom(...platformForValues.directory.people.values()),
    isShapeless: true,
  },
  { arg: (options) => arg.role(options), value: fc.constantFrom(...oddmere.roles), isShapeless: true },
  { arg: (options) => arg.channel(options), value: fc.constantFrom(...oddmere.channels.values()), isShapeless: true },
  { arg: (options) => arg.emoji(options), value: fc.constantFrom('🔨', '👩‍🔧', '🇬🇧') },
  { arg: (options) => arg.url(options), value: fc.webUrl().map((address) => new URL(address)) },
  {
    arg: (options) => arg.pattern(/[A-Z]\d+/, { expected: 'a mark', example: 'B1', ...options }),
    value: fc.constantFrom('B12', 'C3'),
  },
];

const listSamples: readonly Sample[] = samples
  .filter((_, index) => index !== 7)
  .map((sample) => ({
    arg: (options) => arg.list(sample.arg({}), options) as Arg<unknown>,
    value: fc.array(sample.value, { minLength: 1, maxLength: 4 }),
    isShapeless: true,
  }));

const tail: Sample = {
  arg: (options) => arg.tail(options),
  value: words.map((text) => text.trim()).filter((text) => text !== ''),
};

interface Declared {
  readonly args: Record<string, Arg<unknown>>;
  readonly values: Record<string, unknown>;
}

/** Random arguments with values for them: required ones, optional ones, flags, perhaps a list or a tail at the end. */
const declared: fc.Arbitrary<Declared> = fc
  .record({
    required: fc.array(fc.constantFrom(...samples), { maxLength: 3 }),
    optional: fc.array(fc.constantFrom(...samples.filter(({ isShapeless }) => isShapeless !== true)), { maxLength: 2 }),
    flags: fc.array(fc.constantFrom(...samples, ...listSamples), { maxLength: 2 }),
    last: fc.option(fc.constantFrom(tail, ...listSamples), { nil: undefined }),
  })
  .chain(({ required, optional, flags, last }) => {
    const parts: [string, Arg<unknown>, fc.Arbitrary<unknown>][] = [];
    for (const [index, sample] of required.entries()) parts.push([`r${index}`, sample.arg({}), sample.value]);
    for (const [index, sample] of optional.entries()) {
      parts.push([`o${index}`, sample.arg({ optional: true }), sample.value]);
    }
    if (last !== undefined)
      parts.push(['last', last.arg({ optional: true }), fc.option(last.value, { nil: undefined })]);
    for (const [index, sample] of flags.entries()) {
      const value = fc.option(sample.value, { nil: undefined });
      parts.push([`f${index}x`, sample.arg({ flag: true, optional: true }), value]);
    }
    const args = Object.fromEntries(parts.map(([name, one]) => [name, one]));
    return fc
      .record(Object.fromEntries(parts.map(([name, , value]) => [name, value])))
      .map((values) => ({ args, values }));
  });

function layerOf(args: Record<string, Arg<unknown>>) {
  const platform = platformForValues;
  const all = command({ ...described, name: 'try', in: 'guild', args });
  return { all, platform, layer: createCommandLayer({ commands: [all], prefixes: ['!'], clock, log: silentLog }) };
}

describe('values, written as a line, read as the same values', () => {
  test('for random declarations of every kind that can be written', async () => {
    const refused: string[] = [];
    await fc.assert(
      fc.asyncProperty(declared, async ({ args, values }) => {
        const { all, platform, layer } = layerOf(args);
        let text = '!';
        try {
          text += lineFor(layer, all, values as never);
        } catch (error) {
          // Values that would run into one are not written wrong: they are not written.
          refused.push(String(error));
          return;
        }
        const outcome = await layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text }), platform);
        expect([text, outcome.status, 'problems' in outcome ? outcome.problems : []]).toEqual([text, 'completed', []]);
        expect(plain((outcome as { args: object }).args)).toEqual(plain(values));
      }),
      { numRuns: 1000 },
    );
    expect(refused.length).toBeLessThan(30);
    expect(refused.filter((error) => !error.includes('no line reads as them'))).toEqual([]);
  });

  test('a value that could not be told apart is not written', () => {
    const borrow = command({
      ...described,
      name: 'borrow',
      args: { keep: arg.duration({ optional: true }), note: arg.tail({ optional: true }) },
    });
    const layer = createCommandLayer({ commands: [borrow], prefixes: ['!'] });
    expect(lineFor(layer, borrow, { note: 'for the fence' })).toBe('borrow for the fence');
    expect(() => lineFor(layer, borrow, { note: '3d' })).toThrow(
      'borrow cannot be written with these values: no line reads as them',
    );
  });

  test('a kind without a writer says so', () => {
    const mark = arg.custom({ name: 'mark', expected: 'a mark', example: 'B12', read: (text) => text });
    const put = command({ ...described, name: 'put', args: { mark } });
    const layer = createCommandLayer({ commands: [put], prefixes: ['!'] });
    expect(() => lineFor(layer, put, { mark: 'B12' })).toThrow(
      'mark cannot be written: its kind, mark, has no `write`',
    );
  });
});

/** Times, addresses and people by what they are, not by which object. */
function plain(value: unknown): unknown {
  if (value instanceof Date || value instanceof URL) return value.toJSON();
  if (Array.isArray(value)) return value.map(plain);
  if (typeof value !== 'object' || value === null) return value;
  if ('id' in value) return value.id;
  return Object.fromEntries(
    Object.entries(value).flatMap(([name, one]) => (one === undefined ? [] : [[name, plain(one)]])),
  );
}

describe('the same texts by text and by slash', () => {
  const typed = fc.oneof(words, fc.constantFrom('wren', '3', '3d', 'tomorrow', 'yes', 'lathe', 'latte', '10abc', '🔨'));
  const single = samples.filter((_, index) => index !== 7);

  test('give the same command, arguments, status, code and first problem’s parameters', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.constantFrom(...single), typed), { minLength: 1, maxLength: 3 }),
        async (parts) => {
          const args = Object.fromEntries(parts.map(([sample], index) => [`a${index}`, sample.arg({})]));
          const { platform, layer } = layerOf(args);
          const quoted = parts.map(([, text]) => `"${text.replace(/["\\]/g, '\\$&')}"`).join(' ');
          const options = Object.fromEntries(parts.map(([, text], index) => [`a${index}`, text]));
          const byText = await layer.handle(
            platform.typed({ person: 'ines', place: 'oddmere', text: `!try ${quoted}` }),
            platform,
          );
          const bySlash = await layer.handle(
            platform.invoked({ person: 'ines', place: 'oddmere', path: ['try'], options }),
            platform,
          );
          expect(gist(bySlash)).toEqual(gist(byText));
        },
      ),
      { numRuns: 500 },
    );
  });
});

const lines = fc.oneof(
  fc
    .tuple(
      fc.constantFrom(
        'note',
        'say',
        'borrow',
        'count',
        'pick',
        'fine',
        'stock',
        'label',
        'invite',
        'sizes',
        'book',
        'trim',
      ),
      fc.array(
        fc.oneof(
          words,
          fc.constantFrom('wren', '--days', '--days=', '--tag', '—x', '3', '20d', '"', '```', 'tomorrow', '\n', ','),
        ),
        { maxLength: 8 },
      ),
    )
    .map(([name, rest]) => `!${name} ${rest.join(' ')}`),
  fc.string({ unit: 'binary' }).map((text) => `!${text}`),
);

function problemsOf(outcome: Outcome): readonly Problem[] {
  return outcome.status === 'invalid' ? outcome.problems : [];
}

describe('whatever the line', () => {
  const scene = grammarScene();

  test('it has an outcome, spans cut the very text that is told, and tokens follow one another', async () => {
    await fc.assert(
      fc.asyncProperty(lines, async (text) => {
        const { layer, platform } = scene;
        const outcome = await layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text }), platform, {
          trace: true,
        });
        expect(['completed', 'refused', 'invalid', 'ignored']).toContain(outcome.status);
        for (const { span } of problemsOf(outcome)) {
          if (span === undefined) continue;
          const cut = text.slice(span.start, span.end);
          // No space around it, but for one that a backslash made part of the word.
          expect(cut).toMatch(/^\S/);
          expect(cut).toMatch(/(\S|\\\s)$/);
        }
        if (!('trace' in outcome) || outcome.trace === undefined) return;
        let end = 0;
        for (const { span } of [...outcome.trace.tokens].sort((a, b) => a.span.start - b.span.start)) {
          expect(span.start).toBeGreaterThanOrEqual(end);
          expect(span.end).toBeGreaterThan(span.start);
          end = span.end;
        }
      }),
      { numRuns: 1000 },
    );
  });

  test('an optional argument that commits to a word either reads it or is told: never a silent skip', async () => {
    // `1 000` is a thousand.
    const shaped = fc.oneof(
      fc.tuple(fc.constantFrom('borrow drill'), fc.stringMatching(/^\d[0-9a-z.]{0,5}$/)),
      fc.tuple(
        fc.constantFrom('count 1'),
        fc.stringMatching(/^[+-]?\d[0-9a-z]{0,5}$/).filter((word) => !/^0\d\d$/.test(word)),
      ),
      fc.tuple(fc.constantFrom('pick'), fc.constantFrom('lathe', 'Welder', 'wedler', 'latte', 'chainsw')),
    );
    await fc.assert(
      fc.asyncProperty(shaped, async ([start, word]) => {
        const { layer, platform } = scene;
        const text = `!${start} ${word}`;
        const outcome = await layer.handle(platform.typed({ person: 'ines', place: 'oddmere', text }), platform, {
          trace: true,
        });
        if (outcome.status === 'invalid') {
          expect(outcome.problems.map(({ span }) => text.slice(span?.start, span?.end))).toContain(word);
        } else {
          const args = (outcome as { args: Record<string, unknown> }).args;
          expect(args['note']).toBeUndefined();
          expect(args['keep'] ?? args['second'] ?? args['machine']).toBeDefined();
        }
      }),
    );
  });
});
