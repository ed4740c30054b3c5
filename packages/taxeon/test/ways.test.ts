/** Which files a call passes, counted over the sources by V8's coverage, and that docs/architecture.md names just these. */
import { readFileSync } from 'node:fs';
import { Session } from 'node:inspector/promises';
import { arg, command, createCommandLayer, guildSettings, type LayerOptions, type Member, type Outcome } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { emptyDirectory, type Input, type Platform } from 'taxeon/platform';
import { beforeAll, describe, expect, test } from 'vitest';
import { codeOf, silentLog } from '../../../test/support/oddmere.js';

const session = new Session();
beforeAll(async () => {
  session.connect();
  await session.post('Profiler.enable');
  await session.post('Debugger.enable');
  await session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: false });
});

/** The files of which a function was called meanwhile. */
async function passedBy(call: () => Promise<Outcome>): Promise<readonly [Outcome, readonly string[]]> {
  await session.post('Profiler.takePreciseCoverage');
  const outcome = await call();
  const { result } = await session.post('Profiler.takePreciseCoverage');
  const files: string[] = [];
  for (const { url, scriptId, functions } of result) {
    const [, file] = /packages\/taxeon\/src\/(.*\.ts)/.exec(url) ?? [];
    if (file === undefined) continue;
    const { scriptSource } = await session.post('Debugger.getScriptSource', { scriptId });
    const isPassed = functions.some(({ ranges: [range] }) => {
      if (range === undefined || range.count === 0) return false;
      // Only looking at what another file exports calls a function of the test runner's.
      return !/^\(\) => \{ try \{ return \w+ \} catch/.test(scriptSource.slice(range.startOffset, range.endOffset));
    });
    if (isPassed) files.push(file);
  }
  return [outcome, files.sort()];
}

const memberOf = (id: string, name: string, rank: number, ...permissions: string[]): Member => {
  return { kind: 'member', id, name, roles: [], permissions: new Set(permissions), rank, ownsGuild: false };
};
const ines = memberOf('p1', 'Ines', 5, 'fine', 'see-cards');
const wren = memberOf('p2', 'Wren', 1);
const guild = { id: 'oddmere', name: 'Oddmere' };
const place = { kind: 'guild', guild, channel: { id: 'counter', name: 'counter' } } as const;

const chat: Platform = {
  name: 'chat',
  capabilities: { privateReplies: 'never', eventIds: true },
  directory: {
    ...emptyDirectory,
    self: () => memberOf('p9', 'Mallet', 9),
    mentioned: (text) => (text.startsWith('@') ? text.slice(1) : undefined),
    member: (_, id) => (id === 'p2' ? wren : undefined),
  },
  deliver: async () => undefined,
  serve: () => Promise.reject(new Error('It is not served')),
};

/** With an alias, a member, a number, a tail, two permissions, a rank and a cooldown. */
const fine = command({
  name: 'fine',
  aliases: ['charge'],
  description: 'Charge somebody',
  in: 'guild',
  args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }), note: arg.tail({ optional: true }) },
  requires: ({ caller }) => [caller.can('fine'), caller.can('see-cards'), caller.outranks('who')],
  cooldowns: { user: '4 in 1h' },
  run: ({ args }) => `${args.who.name} owes ${args.pence}p.`,
});

let inputs = 0;
const said = (of: Partial<Input>): Input => {
  return { surface: 'text', id: `e${++inputs}`, caller: ines, place, at: Date.now(), ...of };
};
const typed = (text: string) => said({ text });

/** As a bot does it that runs for a while: what is made at first is made. */
async function wayOf(input: () => Input, options: Partial<LayerOptions> = {}, before: readonly Input[] = []) {
  const layer = createCommandLayer({ commands: [fine], prefixes: ['!'], log: silentLog, ...options });
  for (const one of before) await layer.handle(one, chat);
  const way = await passedBy(() => layer.handle(input(), chat));
  await layer.close({ within: '1s' });
  return way;
}

const line = () => typed('!charge @p2 50 for the drill');
const twice = () => [line(), line()];
const ways: readonly [string, string, () => ReturnType<typeof wayOf>][] = [
  ['a text call', 'completed', () => wayOf(line, {}, twice())],
  [
    'a slash call',
    'completed',
    () =>
      wayOf(
        () => said({ surface: 'slash', path: ['fine'], options: { who: 'p2', pence: 50, note: 'for the drill' } }),
        {},
        twice(),
      ),
  ],
  ['a refusal by a cooldown', 'cooldown.active', () => wayOf(line, {}, [...twice(), ...twice()])],
  [
    'an argument that is asked for',
    'waiting',
    () => wayOf(() => typed('!charge @p2'), { asking: askInChat({ whenMissing: 'ask' }) }, twice()),
  ],
  [
    'a guild’s setting',
    'command.unavailable',
    () => wayOf(line, { settings: guildSettings({ guilds: { 'chat/oddmere': { off: ['fine'] } }, log: silentLog }) }),
  ],
];

const docs = readFileSync(new URL('../../../docs/architecture.md', import.meta.url), 'utf8');
const linksIn = (text: string) =>
  [...text.matchAll(/\(\.\.\/packages\/taxeon\/src\/([^)]*\.ts)\)/g)].map(([, to = '']) => to);

/** What the page says of a way: all files of it, or what differs from a text call. */
function onThePage(name: string): readonly string[] {
  const section = docs.split(/^## /m).find((one) => one.startsWith(`The way of ${name}\n`)) ?? '';
  const [all = '', without = ''] = section.split(/^Not passed: /m);
  const base = name === 'a text call' ? [] : onThePage('a text call');
  return [...base.filter((file) => !linksIn(without).includes(file)), ...linksIn(all)].sort();
}

describe.each(ways)('%s', (name, ends, way) => {
  test('passes the files that docs/architecture.md names', async () => {
    const [outcome, files] = await way();
    expect(codeOf(outcome)).toBe(ends);
    if (process.env['WAYS'] === 'show') console.log(name, files.length, files.join('\n'));
    expect(onThePage(name)).toEqual(files);
  });
});

test('a text call passes at most 45 files', async () => {
  const [, files] = await wayOf(line, {}, twice());
  expect(files.length).toBeLessThanOrEqual(45);
});
