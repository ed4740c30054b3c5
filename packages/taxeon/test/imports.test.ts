/** How files hang together: in the core from the ground up, and of packages by what everyone has. */
import { readdirSync, readFileSync } from 'node:fs';
import { dirname, join, relative, sep } from 'node:path';
import { describe, expect, test } from 'vitest';
import { entriesOf, folderOf, packages } from '../../../scripts/packages.js';

/** From the ground up: a folder imports from those before it. What ends with `registration` has nothing of Node. */
const folders =
  'base contract limits memory commands access reading replies delivery catalogue observe guilds asking pipeline layer queries registration telemetry modules console'.split(
    ' ',
  );
const rankOf = (file: string) => folders.indexOf(file.split(sep)[0] ?? '');
const anywhere = folders.indexOf('telemetry');

const filesOf = (name: string) =>
  readdirSync(join(folderOf(name), 'src'), { recursive: true, encoding: 'utf8' }).filter((file) =>
    file.endsWith('.ts'),
  );

/** Every module that is named behind `from`, `import`, `import(` or `require(`, in whatever quotes. */
const namedBy = (name: string, file: string) =>
  [
    ...readFileSync(join(folderOf(name), 'src', file), 'utf8')
      .replace(/\/\*[\s\S]*?\*\/|^\s*\/\/.*$/gm, '')
      .matchAll(/\b(?:from|import|require)\s*\(?\s*(['"`])([^'"`\n]+)\1/g),
  ].map(([, , named = '']) => named);
const isOwn = (named: string) => /^\.\.?\//.test(named);
const own = (name: string, file: string) =>
  namedBy(name, file).flatMap((named) =>
    isOwn(named) ? [relative('.', join(dirname(file), named)).replace(/\.js$/, '.ts')] : [],
  );

test('in the core a folder imports only from those above it, and nothing imports a package', () => {
  const wrong = filesOf('taxeon').flatMap((file) =>
    [
      ...(file.includes(sep) ? own('taxeon', file).filter((to) => rankOf(to) < 0 || rankOf(to) > rankOf(file)) : []),
      ...namedBy('taxeon', file).filter((named) => !isOwn(named) && !named.startsWith('node:')),
      ...namedBy('taxeon', file).filter((named) => named.startsWith('node:') && rankOf(file) < anywhere),
      ...(file.includes(sep) && rankOf(file) < 0 ? ['a folder that is not in the list'] : []),
    ].map((to) => `${file} -> ${to}`),
  );
  expect(wrong).toEqual([]);
});

describe.each(packages)('the package %s', (name) => {
  test('imports what others export, and nothing behind it', () => {
    const entries = packages.flatMap(entriesOf).map(({ entry }) => entry);
    const wrong = filesOf(name).flatMap((file) =>
      namedBy(name, file)
        .filter((named) => (isOwn(named) ? join(file, '..', named).startsWith('..') : /^@?taxeon/.test(named)))
        .filter((named) => !entries.includes(named))
        .map((to) => `${file} -> ${to}`),
    );
    expect(wrong).toEqual([]);
  });

  test('imports only those packages that come with it, or that it is given', () => {
    const { dependencies = {}, peerDependencies = {} } = JSON.parse(
      readFileSync(`${folderOf(name)}package.json`, 'utf8'),
    );
    const known = new Set([...Object.keys(dependencies), ...Object.keys(peerDependencies)]);
    const wrong = filesOf(name).flatMap((file) =>
      namedBy(name, file)
        .filter((named) => !isOwn(named) && !named.startsWith('node:'))
        .map((named) => named.split('/', named.startsWith('@') ? 2 : 1).join('/'))
        .filter((needed) => !known.has(needed))
        .map((needed) => `${file} -> ${needed}`),
    );
    expect(wrong).toEqual([]);
  });

  test('has no files that import each other in a circle', () => {
    const state = new Map<string, 'open' | 'done'>();
    const circles: string[] = [];
    const visit = (file: string, path: readonly string[]): void => {
      if (state.get(file) === 'open') circles.push([...path.slice(path.indexOf(file)), file].join(' -> '));
      if (state.has(file)) return;
      state.set(file, 'open');
      for (const to of own(name, file)) visit(to, [...path, file]);
      state.set(file, 'done');
    };
    for (const file of filesOf(name)) if (!file.endsWith('.d.ts')) visit(file, []);
    expect(circles).toEqual([]);
  });
});

test('no two types and no two functions of the library have the same name', () => {
  const named = new Map<string, string[]>();
  for (const name of packages.filter((one) => one !== 'command')) {
    for (const file of filesOf(name)) {
      const code = readFileSync(join(folderOf(name), 'src', file), 'utf8');
      for (const [, what = '', called = ''] of code.matchAll(
        /^(?:export )?(?:async )?(function|interface|type|class)\*? (\w+)/gm,
      )) {
        const key = `${what === 'function' ? 'function' : 'type'} ${called}`;
        named.set(key, [...(named.get(key) ?? []), `${name}/${file}`]);
      }
    }
  }
  // What is trivial is each package's own.
  const isTrivial = (key: string) =>
    /^function (?:isObject|messageOf|isThenable|atOnce|shown|escaped|unescaped)$/.test(key);
  expect([...named].filter(([key, where]) => where.length > 1 && !isTrivial(key))).toEqual([]);
});
