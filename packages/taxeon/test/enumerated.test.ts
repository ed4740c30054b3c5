/** What there is of each sort is met without being listed: the compiler, or the exports, say what was forgotten. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { type RegistrarState, runUntil, standInRegistrar } from '@taxeon/testing';
import { arg, command } from 'taxeon';
import { type Capabilities, paced } from 'taxeon/platform';
import { complete } from 'taxeon/queries';
import { type DifferenceEntry, differenceTo, manifestOf } from 'taxeon/registration';
import { describe, expect, test } from 'vitest';
import { entriesOf, folderOf, packages } from '../../../scripts/packages.js';
import { namesIn } from '../../../test/docs/compile.js';
import { sceneOf, silentLog } from '../../../test/support/oddmere.js';

const text = (path: string) => readFileSync(new URL(path, import.meta.url), 'utf8');

type Claims = { readonly [C in keyof Required<Capabilities>]: readonly Required<Capabilities>[C][] };
const claims: Claims = {
  privateReplies: ['never', 'slash', 'always'],
  refusalsInPlace: [true, false],
  replyDeadlineMs: [50, 3000],
  eventIds: [true, false],
  longestReply: [60, 10_000],
  longestAmongOthers: [60, 10_000],
  pace: [paced('1 in 1s')],
  expires: [true, false],
  idempotencyKeys: [true, false],
  mostSuggestions: [1, 2],
  typingMs: [100],
};

describe('every capability', () => {
  const all = Object.entries(claims).flatMap(([name, values]) => values.map((value) => [name, value] as const));
  const long = Array.from({ length: 30 }, (_, shelf) => `Shelf ${shelf} is full.`).join('\n');
  const shelf = command({
    name: 'shelf',
    description: 'See what there is',
    args: { late: arg.boolean({ flag: true }) },
    run: async ({ args, signal }) => {
      if (args.late) await new Promise((resolve) => setTimeout(resolve, 1, signal()));
      return long;
    },
  });
  const open = command({
    name: 'open',
    description: 'Open',
    requires: ({ caller }) => [caller.can('fly')],
    run: () => long,
  });

  test.each(all)('%s: %j is kept to, and all is said or told', async (name, value) => {
    const { platform, clock, types, invokes, layer } = await sceneOf([shelf, open]);
    Object.assign(platform.capabilities, { [name]: value });
    for (const call of [() => types('wren', '!shelf --late'), () => invokes('wren', 'shelf', { late: true })]) {
      const { outcome, posts } = await runUntil(clock, call());
      expect(outcome).toMatchObject({ status: 'completed', delivery: { delivered: true } });
      const said = posts.map(({ notice }) => notice.body).join('\n');
      expect(said).toContain('Shelf 0 is full.');
      if (name === 'longestReply')
        for (const { notice } of posts) expect(notice.body.length).toBeLessThanOrEqual(Number(value));
      else if (name !== 'longestAmongOthers') expect(said).toContain('Shelf 29 is full.');
    }
    const refused = (await runUntil(clock, types('wren', '!open'))).outcome;
    expect(refused).toMatchObject({ code: 'permission.caller', delivery: { delivered: true } });
    const input = platform.typed({ person: 'wren', place: 'oddmere', text: '!' });
    const offered = await complete(layer, input, 1, platform);
    expect(offered.length).toBeLessThanOrEqual(platform.capabilities.mostSuggestions ?? 20);
  });

  test.each(Object.keys(claims))('%s is on the page for who writes an adapter', (name) => {
    const named = new RegExp(`(capabilities|\`)\\.${name}\`|\\b${name}: `);
    expect(named.test(text('../../../docs/platforms.md'))).toBe(true);
  });
});

describe('every state of a command on a platform', () => {
  const states: Record<DifferenceEntry['state'], true> = {
    lacking: true,
    differs: true,
    leftOver: true,
    same: true,
    foreign: true,
  };
  const one = (name: string, description = name) => command({ name, description, run: () => name });

  test('is found, and is on the page', async () => {
    const { layer, clock } = await sceneOf([one('borrow'), one('return', 'Bring back'), one('shelf')], {
      log: silentLog,
    });
    const form = (name: string) => ({ id: name, name, description: name, where: 'anywhere' as const });
    const held = ['return', 'shelf', 'lamp', 'kettle'].map((name, index) => ({
      id: String(index),
      version: '1',
      visibleAt: 0,
      form: form(name),
      by: name === 'kettle' ? 'another bot' : 'taxeon',
    }));
    let state: RegistrarState = { changes: 0, held: { everywhere: held } };
    const write = (next: RegistrarState) => {
      state = next;
    };
    const tokens = { demo: ['look', 'register'] } as const;
    const registrar = standInRegistrar({
      guilds: ['oddmere'],
      tokens,
      token: 'demo',
      clock,
      state: { read: () => state, write },
    });
    const { scopes } = await runUntil(clock, differenceTo(manifestOf(layer), registrar));
    const found = new Set(scopes.flatMap(({ entries }) => entries.map((entry) => entry.state)));
    expect([...found].sort()).toEqual(Object.keys(states).sort());
    for (const name of found) expect(text('../../../docs/registration.md')).toContain(`| \`${name}\` |`);
  });
});

const published = packages.flatMap((name) => entriesOf(name).map((one) => ({ ...one, name })));
const tests = [...packages.map((name) => `${folderOf(name)}test`), 'test'].flatMap(filesIn);

/** What stands in the files of a folder, at any depth. */
function filesIn(folder: string): readonly string[] {
  if (!existsSync(folder)) return [];
  const files = readdirSync(folder, { recursive: true, encoding: 'utf8' });
  return files.filter((file) => file.endsWith('.ts')).map((file) => readFileSync(join(folder, file), 'utf8'));
}

describe('every maker', () => {
  const sorts = [
    [/^\w+Store$/, 'storeTrials'],
    [/^\w+Registrar$/, 'registrarTrials'],
  ] as const;

  test.each(sorts)('whose name is like %s is put to its trials', async (form, trials) => {
    const modules = await Promise.all(published.map(({ entry }) => import(entry)));
    const makers = modules.flatMap((module) =>
      Object.entries(module).flatMap(([name, it]) => (form.test(name) && typeof it === 'function' ? [name] : [])),
    );
    expect(makers.length).toBeGreaterThan(1);
    const lacking = makers.filter((maker) => !tests.some((one) => one.includes(trials) && one.includes(`${maker}(`)));
    expect(lacking).toEqual([]);
  });

  // The console, in the core, has one person, who types; what it is about is another platform.
  const delivers = (name: string) => filesIn(`${folderOf(name)}src`).some((code) => /^\s+capabilities[:,]/m.test(code));
  const adapters = packages.filter((name) => name !== 'taxeon' && delivers(name));
  test('of a platform is found', () => expect(adapters).toEqual(expect.arrayContaining(['testing', 'irc', 'http'])));
  test.each(adapters)('of a platform in %s is put to the trials of platforms', (name) => {
    expect(tests.some((one) => one.includes('platformTrials') && one.includes(`'@taxeon/${name}'`))).toBe(true);
  });
});

test('each public name is in one entry, and there are no more than these', () => {
  const found = new Map<string, string[]>();
  const counts: Record<string, number> = {};
  for (const { entry, file } of published) {
    // The kinds are in `arg`, too.
    const names = entry === 'taxeon/arg' ? [] : namesIn(readFileSync(file, 'utf8'));
    for (const name of names) found.set(name, [...(found.get(name) ?? []), entry]);
    counts[entry] = names.length;
  }
  const several = [...found].filter(([name, where]) => where.length > 1 && name !== 'nativeOf');
  expect(several).toEqual([]);
  expect(counts['taxeon']).toBeLessThanOrEqual(101);
  expect(found.size).toBeLessThanOrEqual(330);
});

test('each public function and class is on a page', async () => {
  const pages = readdirSync('docs', { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.md'));
  const told = pages.map((file) => readFileSync(join('docs', file), 'utf8')).join('\n');
  const modules = await Promise.all(published.map(({ entry }) => import(entry)));
  const names = modules.flatMap((module) => Object.keys(module).filter((name) => name !== 'default'));
  expect(names.length).toBeGreaterThan(100);
  expect(names.filter((name) => !new RegExp(`(?<![\\w$])${name}(?![\\w$])`).test(told))).toEqual([]);
});

test('in the tests, all packages have one and the same core: its sources', async () => {
  const { PlatformError } = await import('../src/contract/platform.js');
  const registrar = standInRegistrar({
    guilds: [],
    tokens: {},
    token: 'nobody’s',
    state: { read: () => ({ changes: 0, held: {} }), write: () => undefined },
  });
  await expect(registrar.read('everywhere')).rejects.toBeInstanceOf(PlatformError);
  expect((await import('taxeon/platform')).PlatformError).toBe(PlatformError);
});
