import { readFileSync } from 'node:fs';
import { platformTrials } from '@taxeon/testing/trials';
import { arg, command, createCommandLayer } from 'taxeon';
import { emptyDirectory, type Input, type Platform } from 'taxeon/platform';
import { afterEach, describe, expect, test } from 'vitest';
import { WebSocket } from 'ws';
import { silentLog } from '../../../test/support/oddmere.js';
import { until } from '../../../test/support/programs.js';
import { type Line, nativeOf, ownChat } from './support/own-chat/adapter.js';
import { startChat } from './support/own-chat/server.js';

const leaving: (() => Promise<unknown>)[] = [];
afterEach(async () => {
  for (const leave of leaving.splice(0).reverse()) await leave();
});

/** A person of the chat, as their own client is. */
async function person(url: string, name: string) {
  const socket = new WebSocket(url);
  const heard: Line[] = [];
  let answers = 0;
  socket.on('message', (data) => {
    const { event, answer, ...line } = JSON.parse(String(data));
    if (event === 'said') heard.push(line);
    if (answer !== undefined) answers += 1;
  });
  await new Promise((resolve) => socket.once('open', resolve));
  let asks = 0;
  const ask = async (what: object) => {
    asks += 1;
    socket.send(JSON.stringify({ ask: asks, ...what }));
    await until(() => answers >= asks, 'the chat answers');
  };
  await ask({ do: 'enter', name });
  leaving.push(async () => socket.terminate());
  const next = async (isIt: (line: Line) => boolean) => {
    await until(() => heard.some(isIt), 'something is said', 3000);
    return heard.splice(heard.findIndex(isIt), 1)[0]?.text ?? '';
  };
  return {
    say: (text: string) => ask({ do: 'say', room: 'counter', text }),
    tell: (text: string) => ask({ do: 'tell', person: 'mallet', text }),
    /** Messages of several lines are read line by line. */
    heard: readLines(() => next(({ from, room }) => from.id === 'mallet' && room !== undefined)),
    heardAlone: readLines(() => next(({ from, room }) => from.id === 'mallet' && room === undefined)),
  };
}

function readLines(next: () => Promise<string>) {
  const lines: string[] = [];
  return async () => {
    if (lines.length === 0) lines.push(...(await next()).split('\n'));
    return lines.shift() ?? '';
  };
}

async function chat() {
  const server = await startChat();
  leaving.push(() => server.close());
  const wren = await person(server.url, 'Wren');
  const ines = await person(server.url, 'Ines');
  return { server, wren, ines, platform: ownChat({ url: server.url, name: 'Mallet' }) };
}

describe('the adapter that docs/platforms.md builds', () => {
  test.each(platformTrials.map((trial) => [trial.name, trial] as const))('%s', async (_, trial) => {
    const { server, wren, ines, platform } = await chat();
    const skipped = await trial.run({
      platform,
      somebody: { name: 'Wren' },
      type: wren.say,
      heard: ines.heard,
      other: { name: 'Ines', type: ines.say },
      whisper: wren.tell,
      heardAlone: wren.heardAlone,
      addressing: '@mallet ',
      redeliver: async () => server.again(),
    });
    expect(skipped ?? 'held').toMatch(/^held$|^it (?:changes|removes|takes|holds|shows|claims|has no slash)/);
  });

  test('is the one that the page shows, and has fewer than 120 lines of code', () => {
    const page = readFileSync(new URL('../../../docs/platforms.md', import.meta.url), 'utf8');
    const code = readFileSync(new URL('support/own-chat/adapter.ts', import.meta.url), 'utf8');
    const shown = [...page.matchAll(/```ts adapter\n([\s\S]*?)```/g)].map(([, block]) => block).join('\n');
    expect(shown).toBe(code);
    expect(
      code.split('\n').filter((line) => line.trim() !== '' && !/^\s*(?:\/\*\*|\/\/)/.test(line)).length,
    ).toBeLessThan(120);
  });

  test('gives a handler the chat’s own line, also of a call that was spread', async () => {
    const { wren, platform } = await chat();
    const seen: unknown[] = [];
    const look = command({
      name: 'look',
      description: 'Look at the line',
      run(call) {
        seen.push(nativeOf({ ...call })?.text);
        return 'seen';
      },
    });
    const layer = createCommandLayer({ commands: [look], prefixes: ['!'], log: silentLog });
    await platform.serve(layer);
    leaving.push(() => layer.close());
    await wren.say('!look');
    await until(() => seen.includes('!look'), 'the handler sees the line');
  });
});

test('a system that tells nothing of who is where: what needs it is refused, all else works', async () => {
  const said: string[] = [];
  const platform: Platform = {
    name: 'loudhailer',
    capabilities: { privateReplies: 'never', eventIds: false },
    directory: emptyDirectory,
    deliver: ({ notice }) => void said.push(notice.body),
    serve: () => Promise.reject(new Error('not served')),
  };
  const described = { description: 'Try it' };
  const layer = createCommandLayer({
    prefixes: ['!'],
    log: silentLog,
    commands: [
      command({ ...described, name: 'shelf', args: { kind: arg.text({ optional: true }) }, run: () => 'two drills' }),
      command({ ...described, name: 'fine', args: { who: arg.member() }, run: () => 'fined' }),
      command({
        ...described,
        name: 'badge',
        in: 'guild',
        requires: ({ bot }) => [bot.can('give-badges')],
        run: () => 'given',
      }),
      command({ ...described, name: 'call', args: { whom: arg.user() }, run: () => 'called' }),
      command({ ...described, name: 'role', in: 'guild', args: { of: arg.role() }, run: () => 'named' }),
    ],
  });
  const type = (text: string): Promise<{ status: string; code?: string; problems?: readonly { code: string }[] }> =>
    layer.handle(
      {
        surface: 'text',
        text,
        caller: {
          kind: 'member',
          id: 'wren',
          name: 'Wren',
          roles: [],
          permissions: new Set(),
          rank: undefined,
          ownsGuild: false,
        },
        place: {
          kind: 'guild',
          guild: { id: 'oddmere', name: 'Oddmere' },
          channel: { id: 'counter', name: 'counter' },
        },
        at: 0,
      } satisfies Input,
      platform,
    ) as never;
  expect((await type('!shelf')).status).toBe('completed');
  for (const [line, status] of [
    ['!fine wren', 'refused'],
    ['!badge', 'refused'],
    ['!call wren', 'refused'],
    ['!role steward', 'refused'],
  ] as const)
    expect([line, (await type(line)).status]).toEqual([line, status]);
  expect(said).toHaveLength(5);
});
