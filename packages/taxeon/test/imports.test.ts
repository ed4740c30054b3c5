import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, sep } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';

/** From the ground up: a folder imports from those before it. The core ends with `layer`: no package, nothing of Node. */
const folders =
  'base contract limits memory commands access reading replies delivery catalogue observe guilds asking pipeline layer queries registration telemetry modules stores platforms icu testing'.split(
    ' ',
  );
const src = fileURLToPath(new URL('../src/', import.meta.url));
const files = readdirSync(src, { recursive: true, encoding: 'utf8' }).filter((file) => file.endsWith('.ts'));
const rankOf = (file: string) => folders.indexOf(file.split(sep)[0] ?? '');
const core = folders.indexOf('layer');

/** Every module that is named behind `from`, `import`, `import(` or `require(`, in whatever quotes. */
const namedBy = (file: string) =>
  [
    ...readFileSync(join(src, file), 'utf8')
      .replace(/\/\*[\s\S]*?\*\/|^\s*\/\/.*$/gm, '')
      .matchAll(/\b(?:from|import|require)\s*\(?\s*(['"`])([^'"`\n]+)\1/g),
  ].map(([, , name = '']) => name);
const own = (file: string) =>
  namedBy(file).flatMap((name) =>
    /^[./]/.test(name) ? [relative(src, join(src, dirname(file), name)).replace(/\.js$/, '.ts')] : [],
  );

test('a folder imports only from those above it, and the core no package', () => {
  const wrong = files
    .filter((file) => file.includes(sep))
    .flatMap((file) =>
      [
        ...own(file).filter((to) => rankOf(to) < 0 || rankOf(to) > rankOf(file)),
        ...namedBy(file).filter((name) => rankOf(file) <= core && !/^[./]/.test(name)),
        ...(rankOf(file) < 0 ? ['a folder that is not in the list'] : []),
      ].map((to) => `${file} -> ${to}`),
    );
  expect(wrong).toEqual([]);
});

test('no files import each other in a circle', () => {
  const state = new Map<string, 'open' | 'done'>();
  const circles: string[] = [];
  const visit = (file: string, path: readonly string[]): void => {
    if (state.get(file) === 'open') circles.push([...path.slice(path.indexOf(file)), file].join(' -> '));
    if (state.has(file)) return;
    state.set(file, 'open');
    for (const to of own(file)) visit(to, [...path, file]);
    state.set(file, 'done');
  };
  for (const file of files) if (!file.endsWith('.d.ts')) visit(file, []);
  expect(circles).toEqual([]);
});

test('no two types and no two functions have the same name', () => {
  const named = new Map<string, string[]>();
  for (const file of files) {
    const code = readFileSync(join(src, file), 'utf8');
    for (const [, what = '', name = ''] of code.matchAll(
      /^(?:export )?(?:async )?(function|interface|type|class)\*? (\w+)/gm,
    )) {
      const key = `${what === 'function' ? 'function' : 'type'} ${name}`;
      named.set(key, [...(named.get(key) ?? []), file]);
    }
  }
  // Each adapter has its own, by the same name.
  const several = [...named].filter(([key, where]) => where.length > 1 && key !== 'function nativeOf');
  expect(several).toEqual([]);
});
