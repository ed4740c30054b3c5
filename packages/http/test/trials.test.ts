/** The trials for platforms, on an endpoint: everybody speaks by posts, and hears by responses and late answers. */

import { type SlashEndpointOptions, slashEndpoint } from '@taxeon/http';
import { type PlatformProbe, platformTrials } from '@taxeon/testing/trials';
import { type InputHandler, PlatformError } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';

interface Heard {
  readonly text: string;
  readonly visibleTo: string;
}

/** A queue of lines: the next one, or the one that comes. */
function lines() {
  const queue: string[] = [];
  const waiting: ((line: string) => void)[] = [];
  return {
    add(text: string) {
      for (const line of text.split('\n')) (waiting.shift() ?? ((one) => void queue.push(one)))(line);
    },
    next: () =>
      new Promise<string>((resolve, reject) => {
        const line = queue.shift();
        if (line !== undefined) return resolve(line);
        waiting.push(resolve);
        setTimeout(() => reject(new Error('the bot says nothing')), 3000);
        return undefined;
      }),
  };
}

/** A chat with a desk that posts slash commands: two people in one room. */
function chat(options: Partial<SlashEndpointOptions> = {}): PlatformProbe {
  const room = lines();
  const alone = lines();
  const nobody: InputHandler = { handle: async () => ({ status: 'ignored', because: 'chat' }) };
  const guild = { id: 'oddmere', name: 'Oddmere Tool Library' };
  const channel = { id: 'counter', name: 'counter' };
  const hear = ({ text, visibleTo }: Heard) => (visibleTo === 'caller' ? alone : room).add(text);
  const endpoint = slashEndpoint(nobody, {
    proof: () => true,
    read: ({ get }) => ({
      id: get('event'),
      caller: { id: get('person'), name: get('name'), permissions: ['borrow'], roles: ['borrower'], rank: 10 },
      ...(get('isDirect') === true ? {} : { place: { guild, channel } }),
      command: get('path'),
      options: get('options'),
      text: get('text'),
    }),
    deadline: '300ms',
    longestReply: 400,
    send: ({ body }) => hear(body as Heard),
    ...options,
  });
  let events = 0;
  let last: object = {};
  const send = async (body: object) => {
    const { isDirect } = body as { readonly isDirect?: boolean };
    const post = new Request('https://bot.oddmere.example/slash', {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    const response = await endpoint(post);
    if (response.status !== 200) return;
    const said = (await response.json()) as Heard;
    hear(isDirect === true ? { ...said, visibleTo: 'caller' } : said);
  };
  const speaker = (name: string) => async (path: readonly string[], given: Readonly<Record<string, string>>) => {
    last = { event: `e${++events}`, person: name.toLowerCase(), name, path, options: given };
    await send(last);
  };
  return {
    platform: endpoint.platform,
    somebody: { name: 'Wren' },
    invoke: speaker('Wren'),
    other: { name: 'Ines', invoke: speaker('Ines') },
    heard: room.next,
    heardAlone: alone.next,
    redeliver: () => send(last),
    async whisper(line) {
      const [, command = '', text = ''] = /^!(\w+) (.*)$/.exec(line) ?? [];
      await send({ event: `e${++events}`, person: 'wren', name: 'Wren', path: command, text, isDirect: true });
    },
  };
}

const unheard =
  /^(?:nobody types lines to it|it (?:finds|lists|tells|posts|changes|removes|takes|shows|claims|has no mentions|does not).*)$/;

describe('an endpoint for a system that tells nothing but what it posts', () => {
  test.each(platformTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
    expect((await trial.run(chat())) ?? 'held').toMatch(new RegExp(`^held$|${unheard.source}`));
  });

  test('holds what it can hold: most of the trials of replies and inputs', async () => {
    const skipped: string[] = [];
    for (const trial of platformTrials) {
      const why = await trial.run(chat());
      if (why !== undefined) skipped.push(trial.name);
    }
    expect(platformTrials.length - skipped.length).toBeGreaterThan(15);
  });
});

describe('an endpoint for a system with a directory', () => {
  const people = ['Wren', 'Ines'].map((name) => ({ kind: 'user', id: name.toLowerCase(), name }) as const);
  const member = { permissions: new Set(['borrow']), roles: [], rank: 10, ownsGuild: false };
  const mallet = { kind: 'member', id: 'mallet', name: 'Mallet', ...member } as const;

  const told = lines();
  const posted = lines();
  const withDirectory = (): PlatformProbe => {
    const probe = chat({
      bot: { id: 'mallet', name: 'Mallet' },
      guilds: () => [{ id: 'oddmere', name: 'Oddmere Tool Library' }],
      tell({ id }, { text }) {
        if (!people.some((one) => one.id === id)) throw new PlatformError('platform.gone', 'There is nobody');
        told.add(text);
      },
      post({ id }, { text }) {
        if (id !== 'counter') throw new PlatformError('platform.gone', 'There is no such room');
        posted.add(text);
      },
      directory: {
        self: () => mallet,
        member: (_, id) =>
          people.filter((one) => one.id === id).map((one) => ({ ...one, ...member, kind: 'member' as const }))[0],
        membersNamed: ({ id }, typed) =>
          people
            .filter(({ name }) => id === 'oddmere' && name.toLowerCase().startsWith(typed.toLowerCase()))
            .map((one) => ({ ...one, ...member, kind: 'member' as const })),
        user: (id) => people.find((one) => one.id === id),
        channels: () => [{ id: 'counter', name: 'counter' }],
        mention: ({ id }) => `[p:${id}]`,
        mentioned: (text, what) => (what === 'person' ? /^\[p:(\w+)\]$/.exec(text)?.[1] : undefined),
      },
    });
    return probe;
  };

  test.each(platformTrials.map((trial) => [trial.name, trial] as const))('%s', async (name, trial) => {
    const probe = withDirectory();
    const heard = name === 'posts in a channel' ? posted.next : probe.heard;
    const heardAlone = name === 'tells a person alone' ? told.next : probe.heardAlone;
    const skipped = await trial.run({ ...probe, heard, ...(heardAlone === undefined ? {} : { heardAlone }) });
    expect(skipped ?? 'held').toMatch(
      /^held$|^nobody types lines to it$|^it (?:changes|removes|takes|shows|claims|does not tell who)/,
    );
  });
});
