/** Each recipe of docs/recipes, and the ends of pages: the code is run, and the conversation below it is played. */
import { mkdtempSync, readdirSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type * as Testing from '@taxeon/testing';
import type { Surroundings } from '@taxeon/testing';
import type * as Tryouts from '@taxeon/testing/tryouts';
import { transformSync } from 'oxc-transform';
import type * as Taxeon from 'taxeon';
import type * as Asking from 'taxeon/asking';
import { afterAll, describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { oddmereData } from '../support/oddmere.js';
import { blocksOf, root } from './blocks.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-recipes-'));
symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
afterAll(() => rmSync(folder, { recursive: true }));

interface Recipe {
  readonly commands?: readonly Taxeon.CommandOrGroup[] | ((given: Surroundings) => readonly Taxeon.CommandOrGroup[]);
  readonly openBot?: (given: Surroundings) => Taxeon.CommandLayer;
}

/** Of the library as it is built, which the recipe has, too. */
async function load<Module>(name: string): Promise<Module> {
  return (await import(pathToFileURL(join(root, 'packages', name)).href)) as Module;
}

const pages = readdirSync(join(root, 'docs/recipes')).map((name) => join('docs/recipes', name));
/** The end of a page of the guide: a bot, and a conversation with it. */
const ends = readdirSync(join(root, 'docs'))
  .filter((name) => name.endsWith('.md'))
  .flatMap((name) => {
    const text = readFileSync(join(root, 'docs', name), 'utf8');
    const [, section = ''] = text.split('\n## Try it\n');
    const [, code] = /```ts\n([\s\S]*?)```/.exec(section.split('\n## ')[0] ?? '') ?? [];
    const [, played] = /```yaml\n([\s\S]*?)```/.exec(section) ?? [];
    return code === undefined || played === undefined ? [] : [[`at the end of docs/${name}`, code, played] as const];
  });
const recipes = pages.flatMap((path) => {
  const headings = [...readFileSync(join(root, path), 'utf8').matchAll(/^## (.*)$/gm)].map(
    ([, heading = '']) => heading,
  );
  const blocks = blocksOf(path);
  const [code, played] = ['ts', 'yaml'].map((one) => blocks.filter(({ language }) => language === one));
  expect([path, code?.length, played?.length]).toEqual([path, headings.length, headings.length]);
  return headings.map((heading, index) => [heading, code?.[index]?.code ?? '', played?.[index]?.code ?? ''] as const);
});

describe('the recipe', () => {
  test.each([...recipes, ...ends])('%s', async (heading, code, conversation) => {
    const file = join(folder, `${heading.replace(/\W+/g, '-')}.mjs`);
    writeFileSync(file, transformSync('recipe.ts', code).code);
    const { commands, openBot } = (await import(pathToFileURL(file).href)) as Recipe;
    const { createCommandLayer } = await load<typeof Taxeon>('taxeon/dist/index.js');
    const { askInChat } = await load<typeof Asking>('taxeon/dist/asking.js');
    const { standIn, virtualClock } = await load<typeof Testing>('testing/dist/index.js');
    const { checkTryout, keptLog, playTryout } = await load<typeof Tryouts>('testing/dist/tryouts.js');

    const tryout = checkTryout({ tryout: heading, begins: '2026-05-09T13:00:00Z', lines: parse(conversation) });
    const clock = virtualClock(Date.parse(tryout.begins));
    const log = keptLog();
    const given = { clock, log };
    const all = typeof commands === 'function' ? commands(given) : (commands ?? []);
    const layer =
      openBot?.(given) ?? createCommandLayer({ ...given, commands: all, prefixes: ['!'], asking: askInChat() });
    const platform = standIn(oddmereData().world, given);
    for await (const step of playTryout(tryout, { layer, platform }, clock, log)) {
      if ('differences' in step) expect(step.differences).toEqual([]);
    }
    await layer.close();
  });

  test('is one of at least twenty', () => {
    expect(recipes.length).toBeGreaterThanOrEqual(20);
    expect(ends.map(([name]) => name)).toHaveLength(4);
  });
});
