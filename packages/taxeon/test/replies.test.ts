import { runUntil, virtualClock } from '@taxeon/testing';
import fc from 'fast-check';
import {
  type Call,
  type Channel,
  command,
  createCommandLayer,
  type Log,
  type MannerOptions,
  type Outcome,
  partlyDone,
  plainText,
  refuse,
  type User,
} from 'taxeon';
import {
  type Capabilities,
  type Input,
  type Platform,
  PlatformError,
  paced,
  type Reply,
  splitNotice,
} from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import { codeOf, nobodyKnown, oddmere, sceneOf, startOfAfternoon } from '../../../test/support/oddmere.js';

const described = { description: 'Something' };

function listeningLog() {
  const lines: { message: string; fields: Readonly<Record<string, unknown>> }[] = [];
  const keep: Log['error'] = (fields, message) => void lines.push({ fields, message });
  return { lines, error: keep, warn: keep };
}

interface Fault {
  readonly what: 'deliver' | 'edit' | 'hold' | 'tell' | 'post';
  readonly reply?: Reply;
}

/** A platform that notes all it is asked for, and fails as told. */
function notingPlatform(options: {
  readonly clock: ReturnType<typeof virtualClock>;
  readonly capabilities?: Partial<Capabilities>;
  readonly without?: readonly (keyof Platform)[];
  fault?(asked: Fault): unknown;
  /** Before anything is promised. */
  before?(reply: Reply): void;
}) {
  const noted: string[] = [];
  const keys: string[] = [];
  const times: number[] = [];
  let posts = 0;
  const ask = (what: Fault['what'], reply?: Reply) => {
    const answer = options.fault?.({ what, ...(reply === undefined ? {} : { reply }) });
    const text = reply === undefined ? '' : `: ${plainText(reply.notice).replace(/\n/g, ' / ')}`;
    noted.push(`${what}${reply?.visibleTo === 'caller' ? ' privately' : ''}${text}`);
    times.push(options.clock.now() - startOfAfternoon);
    return answer;
  };
  async function taking(reply: Reply) {
    await ask('deliver', reply);
    return { id: `${++posts}` };
  }
  const all: Platform = {
    name: 'noting',
    capabilities: { privateReplies: 'slash', eventIds: true, replyDeadlineMs: 4000, ...options.capabilities },
    directory: nobodyKnown,
    deliver(reply, _, key) {
      keys.push(key);
      options.before?.(reply);
      return taking(reply);
    },
    async hold() {
      ask('hold');
    },
    async edit({ id }, reply) {
      ask('edit', reply);
      noted.push(`${noted.pop()} (over ${id})`);
    },
    async remove({ id }) {
      noted.push(`remove ${id}`);
      times.push(options.clock.now() - startOfAfternoon);
    },
    async tell(_, reply) {
      ask('tell', reply);
    },
    async post(_, reply) {
      ask('post', reply);
    },
    serve: () => Promise.reject(new Error('not served')),
  };
  for (const name of options.without ?? []) delete (all as Partial<Record<keyof Platform, unknown>>)[name];
  return { platform: all, noted, keys, times };
}

type Setting = Partial<Parameters<typeof notingPlatform>[0]>;

/** One call of a handler, by slash unless told otherwise, on such a platform; time runs on by itself. */
async function calling(
  run: (call: Call, wait: (ms: number) => Promise<void>) => unknown,
  setting: Setting & {
    surface?: 'text' | 'slash';
    timeout?: '2s' | '1m';
    visibleTo?: 'caller' | 'caller-if-possible';
  } = {},
) {
  const clock = virtualClock(startOfAfternoon);
  const log = listeningLog();
  const { platform, noted, keys, times } = notingPlatform({ clock, ...setting });
  const wait = (ms: number) => new Promise<void>((done) => void clock.after(ms, done));
  const { timeout, visibleTo, surface = 'slash' } = setting;
  const act = command({
    ...described,
    name: 'act',
    ...(timeout === undefined ? {} : { timeout }),
    ...(visibleTo === undefined ? {} : { visibleTo }),
    run: (call) => run(call as Call, wait) as string,
  });
  const layer = createCommandLayer({ commands: [act], prefixes: ['!'], clock, log, reference: () => 'h4az8mnf' });
  const input: Input = {
    surface,
    caller: { kind: 'user', id: 'wren', name: 'Wren' },
    place: { kind: 'guild', guild: { id: 'g', name: 'g' }, channel: { id: 'c', name: 'c' } },
    at: clock.now(),
    id: 'event',
    ...(surface === 'slash' ? { path: ['act'], options: {} } : { text: '!act' }),
  };
  const outcome = await runUntil(clock, layer.handle(input, platform, { trace: true }));
  return { outcome, noted, keys, times, log: log.lines, clock, layer, platform, input };
}

describe('a slow handler', () => {
  test('is held before the deadline, with the visibility that is known by then', async () => {
    const { noted, times } = await calling(async (_, wait) => {
      await wait(10_000);
      return 'done';
    });
    expect(noted).toEqual(['hold', 'deliver: done']);
    expect(times[0]).toBeLessThan(3000);
    const quietly = await calling(
      async (_, wait) => {
        await wait(10_000);
        return { body: 'done', visibleTo: 'everyone' };
      },
      { visibleTo: 'caller' },
    );
    expect(quietly.noted).toEqual(['hold', 'deliver privately: Answered.', 'deliver: done']);
  });

  describe('that is held: what is private stays private, and the outcome says who sees it', () => {
    const secret = { body: 'The code is 7.', visibleTo: 'caller' } as const;
    const open = { body: 'The saw is out.', visibleTo: 'everyone' } as const;
    const progressing = (last: unknown) => async (call: Call, wait: (ms: number) => Promise<void>) => {
      call.progress(0.5, 'half');
      await wait(10_000);
      return last;
    };
    const slowly = (last: unknown) => async (_: unknown, wait: (ms: number) => Promise<void>) => {
      await wait(10_000);
      if (last instanceof Error) throw last;
      return last;
    };
    const long = { ...secret, body: 'The code is 7. '.repeat(60) };
    const alone = 'That is for you alone, and I cannot reach you alone.';
    type Run = Parameters<typeof calling>[0];
    const rows: [string, Run, Setting & { visibleTo?: 'caller'; timeout?: '2s' }, string[], 'caller' | 'everyone'][] = [
      ['an answer', slowly(secret), {}, ['hold', 'deliver: Answered.', 'deliver privately: The code is 7.'], 'caller'],
      [
        'a refusal',
        slowly(refuse('tool.out', 'No.')),
        {},
        ['hold', 'deliver: Answered.', 'deliver privately: No.'],
        'caller',
      ],
      [
        'a failure',
        slowly(new Error('no')),
        {},
        [
          'hold',
          'deliver: Answered.',
          'deliver privately: Something went wrong on my side. Please tell the people who run me: h4az8mnf.',
        ],
        'caller',
      ],
      [
        'progress, and then an answer',
        progressing(secret),
        {},
        ['deliver: ■■■■■□□□□□ 50 % / half', 'edit: Answered. (over 1)', 'deliver privately: The code is 7.'],
        'caller',
      ],
      [
        'an answer for everyone, held for the caller',
        slowly(open),
        { visibleTo: 'caller' },
        ['hold', 'deliver privately: Answered.', 'deliver: The saw is out.'],
        'everyone',
      ],
      ['an answer as it was held', slowly('done'), {}, ['hold', 'deliver: done'], 'everyone'],
      [
        'one for the caller, as it was held',
        slowly(secret),
        { visibleTo: 'caller' },
        ['hold', 'deliver privately: The code is 7.'],
        'caller',
      ],
      [
        'where the platform hides nothing: told',
        slowly(secret),
        { capabilities: { privateReplies: 'never' } },
        ['hold', 'deliver: Answered.', 'tell privately: The code is 7.'],
        'caller',
      ],
    ];
    test.each(rows)('%s', async (_, run, setting, expected, seenBy) => {
      const { noted, outcome } = await calling(run, setting);
      expect(noted).toEqual(expected);
      expect(outcome).toMatchObject({ delivery: { delivered: true, seenBy } });
    });

    test('a long one, in several parts', async () => {
      const { noted } = await calling(slowly(long), { capabilities: { longestReply: 200 } });
      expect(noted.slice(0, 2)).toEqual(['hold', 'deliver: Answered.']);
      expect(noted.length).toBeGreaterThan(4);
      for (const one of noted.slice(2)) expect(one).toMatch(/^deliver privately: /);
    });

    test('where nobody can be told alone, it is not said', async () => {
      const { noted, outcome } = await calling(slowly(secret), {
        capabilities: { privateReplies: 'never' },
        without: ['tell'],
      });
      expect(noted).toEqual(['hold', 'deliver: Answered.', `deliver: ${alone}`]);
      expect(outcome).toMatchObject({ status: 'completed', delivery: { delivered: false, code: 'platform.failed' } });
    });

    test('a word that closes what is gone is no message of its own', async () => {
      const { noted, outcome } = await calling(slowly(secret), {
        fault: ({ what }) => {
          if (what === 'deliver') throw new PlatformError('platform.gone', 'no');
        },
      });
      expect(noted).toEqual(['hold', 'tell privately: The code is 7.']);
      expect(outcome).toMatchObject({ delivery: { delivered: true, as: 'tell', seenBy: 'caller' } });
    });

    /** What goes wrong with the word that closes what is held for everyone. */
    const isClosing = (reply?: Reply) => reply?.notice.body === 'Answered.';
    const failing = (error: Error) => (reply?: Reply) => {
      if (isClosing(reply)) throw error;
    };
    const later = (fault: (reply?: Reply) => unknown): Setting => ({ fault: ({ reply }) => fault(reply) });
    const unclosed: [string, Setting][] = [
      ['is forbidden', later(failing(new PlatformError('platform.forbidden', 'no')))],
      ['is rejected', later(failing(new Error('no')))],
      ['is thrown back at once', { before: failing(new Error('no')) }],
      ['is never answered', later((reply) => (isClosing(reply) ? new Promise(() => undefined) : undefined))],
      ['does not get through', later(failing(new PlatformError('platform.unreachable', 'no')))],
    ];
    test.each(unclosed)(
      'where the closing word %s, nothing private fills what may be open for all',
      async (_, faulty) => {
        const secrets = (noted: readonly string[]) => noted.filter((one) => one.includes('The code is 7.'));
        const told = await calling(slowly(secret), faulty);
        expect(secrets(told.noted)).toEqual(['tell privately: The code is 7.']);
        expect(told.outcome).toMatchObject({ delivery: { delivered: true, as: 'tell', seenBy: 'caller' } });
        const unsaid = await calling(slowly(secret), { ...faulty, without: ['tell'] });
        expect(secrets(unsaid.noted)).toEqual([]);
        expect(unsaid.outcome).toMatchObject({ status: 'completed', delivery: { delivered: false } });
      },
    );

    test('a public reply that was refused, and caught, leaves open what is held for everyone', async () => {
      const { noted, outcome } = await calling(
        async ({ reply }, wait) => {
          await wait(3000);
          await reply('The saw is out.').catch(() => undefined);
          return secret;
        },
        {
          fault: ({ reply }) => {
            if (reply?.notice.body === 'The saw is out.') throw new PlatformError('platform.forbidden', 'no');
          },
        },
      );
      expect(noted).toEqual(['hold', 'deliver: Answered.', 'deliver privately: The code is 7.']);
      expect(outcome).toMatchObject({ delivery: { delivered: true, as: 'reply', seenBy: 'caller' } });
    });

    describe('on text, where others would see it,', () => {
      const onText = { surface: 'text', visibleTo: 'caller' } as const;
      const steps: [string, Run][] = [
        ['at once', async () => secret],
        ['late', slowly(secret)],
        ['behind progress', progressing(secret)],
        ['as a refusal of the handler’s own', async () => refuse('pin.wrong', 'The code is 7.')],
        [
          'thrown as one, late',
          (_, wait) => wait(2000).then(() => Promise.reject(refuse('pin.wrong', 'The code is 7.'))),
        ],
        ['by reply', async ({ reply }) => void (await reply(secret))],
        ['by reply, late', ({ reply }, wait) => wait(2000).then(() => void reply(secret))],
      ];
      test.each(steps)('it is told directly: %s', async (_, run) => {
        const { noted } = await calling(run, onText);
        expect(noted.filter((one) => one.includes('The code is 7.'))).toEqual(['tell privately: The code is 7.']);
      });

      test.each(steps)('it is not said where nobody can be told, and a neutral line says so: %s', async (_, run) => {
        const { noted } = await calling(run, { ...onText, without: ['tell'] });
        expect(noted.join()).not.toContain('The code is 7.');
        expect(noted.filter((one) => one === `deliver: ${alone}`)).toHaveLength(1);
      });

      test('nor where telling fails', async () => {
        const { noted, outcome } = await calling(async () => secret, {
          ...onText,
          fault: ({ what }) => {
            if (what === 'tell') throw new PlatformError('platform.forbidden', 'no');
          },
        });
        expect(noted).toEqual([`deliver: ${alone}`]);
        expect(outcome).toMatchObject({ delivery: { delivered: false, code: 'platform.forbidden' } });
      });

      test('with `caller-if-possible` it stands in the place, and says so', async () => {
        const { noted, outcome } = await calling(async () => 'The code is 7.', {
          surface: 'text',
          visibleTo: 'caller-if-possible',
        });
        expect(noted).toEqual(['deliver: The code is 7.']);
        expect(outcome).toMatchObject({ delivery: { delivered: true, seenBy: 'everyone' } });
      });

      test('it is written over nothing that others see', async () => {
        const { noted } = await calling(async ({ reply }) => {
          const said = await reply({ body: 'Wait.', visibleTo: 'everyone' });
          return String(await said.edit(secret));
        }, onText);
        expect(noted.join()).not.toContain('The code is 7.');
      });

      test('it is no post', async () => {
        const { noted, outcome } = await calling(async ({ post, channel }) => {
          await post(channel as never, secret);
        }, onText);
        expect(noted.join()).not.toContain('The code is 7.');
        expect(outcome).toMatchObject({ code: 'platform.failed' });
      });
    });

    test('several replies, each as it says', async () => {
      const { noted } = await calling(async ({ reply }, wait) => {
        await wait(2000);
        await reply(secret);
        await reply(open);
        return secret;
      });
      expect(noted).toEqual([
        'hold',
        'deliver: Answered.',
        'deliver privately: The code is 7.',
        'deliver: The saw is out.',
        'deliver privately: The code is 7.',
      ]);
    });
  });

  test('that is quick enough is not held', async () => {
    expect((await calling(async (_, wait) => wait(500).then(() => 'done'))).noted).toEqual(['deliver: done']);
  });

  test('is held from intake on, so that a slow default does not use up the deadline', async () => {
    const clock = virtualClock(startOfAfternoon);
    const { platform, noted } = notingPlatform({ clock });
    const { arg } = await import('taxeon');
    const slow = arg.integer({ default: () => new Promise<number>((done) => void clock.after(5000, () => done(1))) });
    const layer = createCommandLayer({
      commands: [command({ ...described, name: 'act', args: { slow }, run: ({ args }) => `${args.slow}` })],
      clock,
    });
    const handling = layer.handle(
      {
        surface: 'slash',
        caller: { kind: 'user', id: 'w', name: 'W' },
        place: { kind: 'direct', channel: { id: 'd', name: 'd' } },
        path: ['act'],
        at: clock.now(),
      },
      platform,
    );
    expect((await runUntil(clock, handling)).status).toBe('completed');
    expect(noted).toEqual(['hold', 'deliver: 1']);
  });

  test('shows its progress by edits at a bearable pace, and its answer over it', async () => {
    const { noted } = await calling(async ({ progress }, wait) => {
      for (let step = 0; step <= 10; step++) {
        progress(step / 10, `Shelf ${step}`);
        await wait(500);
      }
      return partlyDone(9, 10, 'One is missing.');
    });
    expect(noted).toEqual([
      'deliver: □□□□□□□□□□ 0 % / Shelf 0',
      'edit: ■■□□□□□□□□ 20 % / Shelf 2 (over 1)',
      'edit: ■■■■■□□□□□ 50 % / Shelf 5 (over 1)',
      'edit: ■■■■■■■■□□ 80 % / Shelf 8 (over 1)',
      'edit: ■■■■■■■■■□ 9/10 / One is missing. (over 1)',
    ]);
  });

  test('shows no progress where nothing can be edited', async () => {
    const { noted } = await calling(
      ({ progress }) => {
        progress(0.5);
        return 'done';
      },
      { without: ['edit'] },
    );
    expect(noted).toEqual(['deliver: done']);
  });

  test.each([
    ['once, where the platform does not say for how long', undefined, [700]],
    ['again when the platform’s sign of it ends', 5000, [700, 5200]],
  ] as const)('on text shows that it types, %s', async (_, typingMs, times) => {
    const typed: number[] = [];
    const clock = virtualClock();
    const { platform } = notingPlatform({ clock });
    const layer = createCommandLayer({
      commands: [
        command({
          ...described,
          name: 'act',
          run: () => new Promise<string>((done) => void clock.after(9000, () => done('ok'))),
        }),
      ],
      prefixes: ['!'],
      clock,
    });
    const capabilities = { ...platform.capabilities, ...(typingMs === undefined ? {} : { typingMs }) };
    const typing = { ...platform, capabilities, typing: () => void typed.push(clock.now()) };
    const input: Input = {
      surface: 'text',
      text: '!act',
      caller: { kind: 'user', id: 'w', name: 'W' },
      place: { kind: 'direct', channel: { id: 'd', name: 'd' } },
      at: 0,
    };
    await runUntil(clock, layer.handle(input, typing));
    expect(typed).toEqual(times);
    clock.advance(60_000);
    expect(typed).toEqual(times);
  });

  test('is given up after its time; what it says then is dropped and logged', async () => {
    let signal: AbortSignal | undefined;
    const { outcome, noted, log, clock } = await calling(
      async (call, wait) => {
        signal = call.signal();
        await wait(5000);
        await call.reply('too late');
        return 'late';
      },
      { timeout: '2s' },
    );
    expect(outcome).toMatchObject({ status: 'failed', code: 'handler.timeout', parameters: { afterMs: 2000 } });
    expect(signal?.aborted).toBe(true);
    clock.advance(10_000);
    await new Promise((done) => setTimeout(done, 5));
    expect(noted.at(-1)).toBe(
      'deliver privately: That was not done within 2 seconds, so I stopped waiting for it. (h4az8mnf)',
    );
    expect(log.map(({ message }) => message)).toEqual([
      'A handler did not finish in time',
      'A reply came after nobody waited for it, and was dropped',
    ]);
  });

  test('keeps its place among those that run until it settles, or for a stated grace', async () => {
    const ends: (() => void)[] = [];
    const busy = command({
      ...described,
      name: 'busy',
      running: { everyone: 1 },
      timeout: '2s',
      run: () => new Promise<string>((done) => ends.push(() => done('ended'))),
    });
    const scene = await sceneOf([busy]);
    const busyNow = async () => {
      const calling = scene.types('wren', '!busy');
      await new Promise((done) => setTimeout(done, 0));
      scene.clock.advance(2000);
      return codeOf((await calling).outcome);
    };
    expect(await busyNow()).toBe('handler.timeout');
    expect(codeOf((await scene.types('ines', '!busy')).outcome)).toBe('running.full');
    ends[0]?.();
    await new Promise((done) => setTimeout(done, 0));
    expect(await busyNow()).toBe('handler.timeout');
    scene.clock.advance(29_000);
    expect(codeOf((await scene.types('ines', '!busy')).outcome)).toBe('running.full');
    scene.clock.advance(1000);
    expect(await busyNow()).toBe('handler.timeout');
  });
});

describe('what a handler says', () => {
  const rows: [string, (call: Call) => unknown, readonly string[]][] = [
    ['nothing: an invocation is closed all the same', () => undefined, ['deliver privately: Done.']],
    ['an empty text', () => '', ['deliver privately: Done.']],
    ['a sentence', () => 'done', ['deliver: done']],
    ['a notice for the caller alone', () => ({ body: 'done', visibleTo: 'caller' }), ['deliver privately: done']],
    [
      'a reply, and then an answer',
      async ({ reply }) => {
        await reply('first');
        return 'second';
      },
      ['deliver: first', 'deliver: second'],
    ],
    ['a reply, and nothing more', async ({ reply }) => void (await reply('first')), ['deliver: first']],
    [
      'two replies that it does not wait for',
      ({ reply }) => void [reply('one'), reply('two')],
      ['deliver: one', 'deliver: two'],
    ],
    [
      'a reply that it changes',
      async ({ reply }) => {
        const said = await reply('first');
        await said.edit('better');
      },
      ['deliver: first', 'edit: better (over 1)'],
    ],
    [
      'a reply that it takes away',
      async ({ reply }) => void (await (await reply('first')).remove()),
      ['deliver: first', 'remove 1'],
    ],
    [
      'the same to the caller twice, and something else once',
      async ({ tell, caller }) => {
        await tell(caller as never, 'a word');
        await tell(caller as never, 'a word');
        await tell(caller as never, 'well?');
        return 'told';
      },
      ['tell privately: a word', 'tell privately: well?', 'deliver: told'],
    ],
    [
      'a post elsewhere',
      async ({ post }) => {
        await post({ id: 'x', name: 'x' }, 'news');
        return 'posted';
      },
      ['post: news', 'deliver: posted'],
    ],
  ];
  test.each(rows)('%s', async (_, run, expected) => {
    const { noted, outcome } = await calling(run);
    expect(noted).toEqual(expected);
    expect(outcome.status).toBe('completed');
  });

  const odd: [string, (call: Call) => unknown, string][] = [
    [
      'an error whose message throws',
      () => {
        throw Object.defineProperty(new Error('x'), 'message', {
          get() {
            throw new Error('y');
          },
        });
      },
      'handler.failed',
    ],
    ['a number', () => 5, 'handler.failed'],
    ['an object without a body', () => ({ text: 'x' }), 'handler.failed'],
    ['a promise of nothing that is an answer', async () => [1], 'handler.failed'],
    [
      'a refusal of the platform’s',
      () => {
        throw new PlatformError('platform.forbidden', 'no');
      },
      'platform.forbidden',
    ],
    [
      'somebody who is gone',
      async () => {
        throw new PlatformError('platform.gone', 'no');
      },
      'platform.gone',
    ],
  ];
  test.each(odd)('%s', async (_, run, code) => {
    const { outcome, noted } = await calling(run);
    expect(outcome).toMatchObject({ status: 'failed', code, parameters: { reference: 'h4az8mnf' } });
    expect(noted).toHaveLength(1);
    expect(noted[0]).toContain('h4az8mnf');
  });

  test('late: a reply after the handler has returned is dropped and logged', async () => {
    let reply: Call['reply'] | undefined;
    const { noted, log } = await calling((call) => {
      reply = call.reply;
      return 'done';
    });
    await reply?.('later');
    expect(noted).toEqual(['deliver: done']);
    expect(log.at(-1)?.message).toBe('A reply came after nobody waited for it, and was dropped');
  });

  test('pings only those whom it mentions', async () => {
    const scene = await sceneOf([
      command({
        ...described,
        name: 'call',
        in: 'guild',
        run: ({ mention, caller }) => `${mention(caller as never)}, not @tobias`,
      }),
    ]);
    const { outcome, posts } = await scene.types('wren', '!call');
    expect(posts[0]).toMatchObject({ notice: { body: '@wren, not @tobias' }, pings: ['wren'] });
    expect(outcome).toMatchObject({ reply: { mentions: ['wren'] } });
  });

  test('goes again when it is meant to, also where the platform does not see to it', async () => {
    const { noted, clock, times } = await calling(() => ({ body: 'for now', expires: '10s' }));
    clock.advance(60_000);
    await new Promise((done) => setTimeout(done, 0));
    expect(noted).toEqual(['deliver: for now', 'remove 1']);
    expect(times).toEqual([0, 10_000]);
  });
});

describe('handing over', () => {
  const failing = (times: number, error: () => unknown, after = error) => {
    let left = times;
    return ({ what }: Fault) => {
      if (what === 'deliver' && left-- > 0) throw left + 1 === times ? error() : after();
    };
  };
  const rows: [string, Setting, readonly string[], Outcome extends { delivery: infer D } ? D : unknown][] = [
    [
      'tries again with growing pauses',
      { fault: failing(3, () => new PlatformError('platform.unreachable', 'no')) },
      ['deliver: done at 3500'],
      { delivered: true, as: 'reply' },
    ],
    [
      'waits as long as the platform asks',
      { fault: failing(1, () => new PlatformError('platform.slowed', 'no', { retryAfterMs: 7000 })) },
      ['deliver: done at 7000'],
      { delivered: true, as: 'reply' },
    ],
    [
      'gives up on one that asks for too much',
      { fault: failing(1, () => new PlatformError('platform.slowed', 'no', { retryAfterMs: 120_000 })) },
      [],
      { delivered: false, code: 'platform.slowed' },
    ],
    [
      'gives up after a few attempts',
      { fault: failing(99, () => new PlatformError('platform.unreachable', 'no')) },
      [],
      { delivered: false, code: 'platform.unreachable' },
    ],
    [
      'does not try again what may have arrived',
      { fault: failing(1, () => new PlatformError('platform.unreachable', 'no', { mayHaveArrived: true })) },
      [],
      { delivered: false, code: 'platform.unreachable' },
    ],
    [
      'nor after an error that says nothing',
      { fault: failing(1, () => new Error('no')) },
      [],
      { delivered: false, code: 'platform.failed' },
    ],
    [
      'but does, where the platform takes each only once',
      { fault: failing(1, () => new Error('no')), capabilities: { idempotencyKeys: true } },
      ['deliver: done at 500'],
      { delivered: true, as: 'reply' },
    ],
    [
      'and tells what may have arrived first, whatever is said of a later attempt',
      {
        fault: failing(
          2,
          () => new Error('no'),
          () => new PlatformError('platform.forbidden', 'no'),
        ),
        capabilities: { idempotencyKeys: true },
      },
      [],
      { delivered: false, code: 'platform.failed', arrived: 'perhaps' },
    ],
    [
      'never tries again what is forbidden',
      { fault: failing(1, () => new PlatformError('platform.forbidden', 'no')) },
      [],
      { delivered: false, code: 'platform.forbidden' },
    ],
    [
      'posts what was for everybody, where the input is gone',
      { fault: failing(1, () => new PlatformError('platform.gone', 'no')) },
      ['post: done at 0'],
      { delivered: true, as: 'post' },
    ],
    [
      'and tells nobody, where there are no posts either',
      { fault: failing(1, () => new PlatformError('platform.gone', 'no')), without: ['post', 'tell'] },
      [],
      { delivered: false, code: 'platform.gone' },
    ],
  ];
  test.each(rows)('%s', async (_, setting, expected, delivery) => {
    const { outcome, noted, times, keys, log } = await calling(() => 'done', setting);
    expect(noted.map((one, index) => `${one} at ${times[index]}`)).toEqual(expected);
    expect(outcome).toMatchObject({ status: 'completed', delivery });
    expect(new Set(keys)).toEqual(new Set(['event']));
    expect(log.filter(({ fields }) => String(fields['code']).startsWith('platform.'))).toHaveLength(
      expected.length === 0 ? 1 : 0,
    );
  });

  test('what is told or posted has no key, and is said once where it may have arrived', async () => {
    const asked: string[] = [];
    await calling(
      async ({ tell, post, caller, channel }) => {
        await tell(caller as User, 'told');
        await post(channel as Channel, 'posted').catch(() => undefined);
      },
      {
        fault: ({ what }) => {
          asked.push(what);
          if (what !== 'deliver') throw new Error('no');
        },
        capabilities: { idempotencyKeys: true },
      },
    );
    expect(asked).toEqual(['tell', 'post', 'deliver']);
  });

  test('tells the caller alone what was for them, where the input is gone', async () => {
    const { noted } = await calling(() => ({ body: 'psst', visibleTo: 'caller' }), {
      fault: failing(1, () => new PlatformError('platform.gone', 'no')),
    });
    expect(noted).toEqual(['tell privately: psst']);
  });

  test('keeps a channel’s pace, lets others between one handler’s burst, and does not count the wait as the handler’s', async () => {
    const clock = virtualClock(startOfAfternoon);
    const { platform, noted, times } = notingPlatform({ clock, capabilities: { pace: paced('2 in 1s') } });
    const burst = command({
      ...described,
      name: 'burst',
      timeout: '3s',
      run: async ({ reply }) => {
        await Promise.all(Array.from({ length: 8 }, (_, index) => reply(`burst ${index}`)));
      },
    });
    const one = command({ ...described, name: 'one', run: () => 'one' });
    const layer = createCommandLayer({ commands: [burst, one], prefixes: ['!'], clock });
    const say = (text: string): Input => ({
      surface: 'text',
      text,
      caller: { kind: 'user', id: 'w', name: 'W' },
      place: { kind: 'direct', channel: { id: 'd', name: 'd' } },
      at: clock.now(),
    });
    const first = layer.handle(say('!burst'), platform);
    await new Promise((done) => setTimeout(done, 0));
    const second = layer.handle(say('!one'), platform);
    const [bursting] = await runUntil(clock, Promise.all([first, second]));
    expect(bursting.status).toBe('completed');
    expect(noted.indexOf('deliver: one')).toBeLessThan(5);
    expect(noted).toHaveLength(9);
    for (const [index, at] of times.entries())
      expect(at - (times[index - 2] ?? Number.NEGATIVE_INFINITY)).toBeGreaterThanOrEqual(1000);
  });

  test('a steady pace counts lines over all channels, what is told and posted too, and goes on smoothly', async () => {
    const pace = paced('4 in 4s', {
      of: 'connection',
      refill: 'steady',
      weigh: ({ notice }) => plainText(notice).split('\n').length,
    });
    const { noted, times } = await calling(
      async ({ tell, post, caller, channel }) => {
        await post(channel as Channel, 'one\ntwo\nthree');
        for (let n = 0; n < 3; n++) await post({ id: `c${n}`, name: `c${n}` }, `post ${n}`);
        await tell(caller as User, 'told');
      },
      { surface: 'text', capabilities: { pace } },
    );
    expect(noted.slice(1)).toEqual(['post: post 0', 'post: post 1', 'post: post 2', 'tell privately: told']);
    expect(times).toEqual([0, 0, 1000, 2000, 3000]);
  });

  test.each([
    '0 in 1s',
    '5 in 0s',
    '5 in soon' as never,
    { messages: 6, per: '7s' } as never,
    () => undefined as never,
  ] as const)('a pace that would let nothing through is refused: %j', (rate) => {
    expect(() => paced(rate)).toThrow("paced: write '6 in 7s'");
  });

  test.each([Number.NaN, Number.POSITIVE_INFINITY, -5, 1e12, undefined as never])(
    'a weight of %s holds up nothing for long',
    async (weight) => {
      for (const refill of ['whole', 'steady'] as const) {
        const { noted } = await calling(
          async ({ reply }) => {
            await reply('one');
            await reply('two');
          },
          { surface: 'text', capabilities: { pace: paced('2 in 1s', { refill, weigh: () => weight }) } },
        );
        expect(noted).toEqual(['deliver: one', 'deliver: two']);
      }
    },
  );

  test('refusals stand where they were asked for, where the platform says so and neither bot nor command does otherwise', async () => {
    const clock = virtualClock(startOfAfternoon);
    const capabilities = { privateReplies: 'always', refusalsInPlace: true } as const;
    const seen = async (manners: Readonly<Record<string, MannerOptions>>, visibleTo?: 'caller') => {
      const { platform, noted } = notingPlatform({ clock, capabilities });
      const act = command({
        ...described,
        name: 'act',
        ...(visibleTo === undefined ? {} : { visibleTo }),
        requires: ({ caller }) => [caller.ownsBot()],
        run: () => 'done',
      });
      const layer = createCommandLayer({ commands: [act], prefixes: ['!'], clock, manners });
      const caller = { kind: 'user', id: 'wren', name: 'Wren' } as const;
      const place = { kind: 'guild', guild: { id: 'g', name: 'g' }, channel: { id: 'c', name: 'c' } } as const;
      await runUntil(clock, layer.handle({ surface: 'text', text: '!act', caller, place, at: clock.now() }, platform));
      return noted[0]?.split(':')[0];
    };
    expect(await seen({})).toBe('deliver');
    expect(await seen({}, 'caller')).toBe('deliver privately');
    expect(await seen({ 'permission.caller': { visibleTo: 'caller' } })).toBe('deliver privately');
  });

  const manyLines = Array.from({ length: 40 }, (_, n) => `line ${n} of what is told`).join('\n');
  test.each([
    ['goes on to the caller alone', {}, ['deliver', 'tell privately', 'tell privately']],
    ['is cut where nobody can be told', { without: ['tell'] as const }, ['deliver']],
    [
      'stays whole for the caller alone',
      { visibleTo: 'caller' as const, surface: 'slash' as const },
      ['deliver privately'],
    ],
  ])('a reply that is too long among others %s', async (_, setting, expected) => {
    const capabilities = { longestReply: 1800, longestAmongOthers: 400 };
    const { noted } = await calling(() => manyLines, { surface: 'text', capabilities, ...setting });
    expect(noted.map((one) => one.split(':')[0])).toEqual(expected);
    if (expected.length > 1) expect(noted[0]).toMatch(/… The rest goes to you alone\.$/);
    else if (expected[0] === 'deliver') expect(noted[0]).toMatch(/… The rest is left out\.$/);
    else expect(noted[0]).toMatch(/line 39 of what is told$/);
    expect(noted.join(' ').match(/line \d+/g)?.length).toBe(
      expected.length === 1 && expected[0] === 'deliver' ? 17 : 40,
    );
  });

  test('says a megabyte in a few parts, and that the rest is left out', async () => {
    const { noted } = await calling(() => 'word '.repeat(200_000), { capabilities: { longestReply: 500 } });
    expect(noted).toHaveLength(5);
    for (const one of noted) expect(one.length).toBeLessThan(520);
    expect(noted.at(-1)).toMatch(/… The rest is left out\.$/);
  });
});

describe('splitting', () => {
  const length = (notice: Parameters<typeof plainText>[0]) => plainText(notice).length;
  const split = (body: string, longest: number) => splitNotice({ body }, longest, length, '…').map((part) => part.body);
  const rows: [string, string, number, readonly string[]][] = [
    ['between paragraphs first', 'One two.\n\nThree four. Five.', 20, ['One two.', 'Three four. Five.']],
    ['then lines', 'One two three\nfour five six', 20, ['One two three', 'four five six']],
    ['then sentences', 'One two three. Four five six.', 20, ['One two three.', 'Four five six.']],
    ['then words', 'one two three four five', 14, ['one two three', 'four five']],
    ['never inside a character', '👩‍🔧👩‍🔧👩‍🔧', 11, ['👩‍🔧👩‍🔧', '👩‍🔧']],
    [
      'closing and opening code',
      '```js\nlet a;\nlet b;\nlet c;\n```',
      22,
      ['```js\nlet a;\n```', '```js\nlet b;\n```', '```js\nlet c;\n```'],
    ],
  ];
  test.each(rows)('%s', (_, body, longest, expected) => {
    expect(split(body, longest)).toEqual(expected);
  });

  test('keeps every part within the limit, characters whole, fences closed, and loses no word', () => {
    const piece = fc.oneof(
      fc.constantFrom(' ', '\n', '\n\n', '. ', '```\ncode line\nmore code\n```\n', '👩‍🔧', 'é', '𝒳'),
      fc.string({ minLength: 1, maxLength: 12 }).map((all) => all.replaceAll('`', "'")),
    );
    const text = fc.array(piece, { maxLength: 60 }).map((all) => all.join(''));
    fc.assert(
      fc.property(text, fc.integer({ min: 60, max: 200 }), (body, longest) => {
        const parts = splitNotice({ heading: 'Shelf', body, details: ['Usage: !shelf'] }, longest, length, '…');
        for (const part of parts) {
          expect(length(part)).toBeLessThanOrEqual(longest);
          if (!/\p{Cs}/u.test(body)) expect(part.body).not.toMatch(/\p{Cs}/u);
        }
        if (parts.length < 5) {
          // Fences are closed and opened again, and in the middle of a line they are prose, which may be parted anywhere.
          const words = (all: string) => all.replace(/[\s`]+/g, '');
          expect(words(parts.map((part) => part.body).join('\n'))).toBe(words(body));
        }
      }),
      { numRuns: 500 },
    );
  });
});

test('whatever the platform does, an input runs at most once and has at most one first reply', async () => {
  const fates = fc.constantFrom('ok', 'ok', 'slow', 'refused', 'lost', 'accepted and then an error', 'gone', 'odd');
  const event = fc.record({
    id: fc.integer({ min: 0, max: 5 }),
    text: fc.constantFrom('!act', '!act more', '!atc', 'chat', '!once'),
    surface: fc.constantFrom('text' as const, 'slash' as const),
  });
  await fc.assert(
    fc.asyncProperty(
      fc.array(event, { maxLength: 12 }),
      fc.array(fates, { minLength: 1, maxLength: 20 }),
      async (events, plan) => {
        const clock = virtualClock(startOfAfternoon);
        const log = listeningLog();
        const ran = new Map<string, number>();
        const accepted = new Map<string, number>();
        let step = 0;
        const { platform } = notingPlatform({ clock });
        const count = (map: Map<string, number>, key: string) => void map.set(key, (map.get(key) ?? 0) + 1);
        const flaky: Platform = {
          ...platform,
          async deliver(_, to) {
            const fate = plan[step++ % plan.length];
            if (fate === 'slow') await new Promise<void>((done) => void clock.after(4000, done));
            if (fate === 'refused') throw new PlatformError('platform.slowed', 'slow down');
            if (fate === 'lost') throw new PlatformError('platform.unreachable', 'lost');
            if (fate === 'gone') throw new PlatformError('platform.gone', 'gone');
            if (fate === 'odd') throw 'odd';
            count(accepted, to.id ?? '');
            if (fate === 'accepted and then an error')
              throw new PlatformError('platform.unreachable', 'lost on the way back', { mayHaveArrived: true });
            return { id: 'x' };
          },
        };
        const run = ({ inputId = '' }: Call) => {
          count(ran, inputId);
          return 'done';
        };
        const commands = [
          command({ ...described, name: 'act', run: (call) => run(call as Call) }),
          command({ ...described, name: 'once', cooldowns: { user: '1m' }, run: (call) => run(call as Call) }),
        ];
        const layer = createCommandLayer({ commands, prefixes: ['!'], clock, log });
        const outcomes = events.map(({ id, text, surface }) => {
          const input: Input = {
            surface,
            caller: { kind: 'user', id: 'wren', name: 'Wren' },
            place: { kind: 'guild', guild: { id: 'g', name: 'g' }, channel: { id: 'c', name: 'c' } },
            at: clock.now(),
            id: `${surface} ${id}`,
            ...(surface === 'slash' ? { path: [text.slice(1)] } : { text }),
          };
          return layer.handle(input, flaky).then((outcome) => ({ outcome, input }));
        });
        for (const { outcome, input } of await runUntil(clock, Promise.all(outcomes))) {
          const id = input.id ?? '';
          expect(ran.get(id) ?? 0).toBeLessThanOrEqual(1);
          expect(accepted.get(id) ?? 0).toBeLessThanOrEqual(1);
          if (outcome.status === 'ignored') continue;
          if (outcome.delivery === undefined) {
            expect(outcome.status).not.toBe('completed');
            expect(input.surface).toBe('text');
          } else if (!outcome.delivery.delivered) {
            expect(log.lines.map(({ fields }) => fields['code'])).toContain(outcome.delivery.code);
          } else if (outcome.delivery.as === 'reply') expect(accepted.get(id)).toBe(1);
        }
      },
    ),
    { numRuns: 150 },
  );
});

test('the demo’s stocktake is held, shows its progress, and is a partial success', async () => {
  const scene = await oddmere();
  const { outcome, posts } = await runUntil(scene.clock, scene.invokes('ines', 'stocktake'));
  expect(outcome.status).toBe('completed');
  expect(posts).toHaveLength(1);
  expect(posts[0]).toMatchObject({ visibleTo: 'everyone', notice: { tone: 'partial', amount: { done: 6, asked: 7 } } });
  expect(posts[0]?.earlier.length).toBeGreaterThan(3);
  expect(posts[0]?.heldAt).toBe(startOfAfternoon + 2000);
});
