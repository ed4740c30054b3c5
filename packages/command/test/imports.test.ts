import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { expect, test } from 'vitest';

const src = fileURLToPath(new URL('../src/', import.meta.url));
const files = readdirSync(src).filter((name) => name.endsWith('.ts'));
const namedBy = (file: string) =>
  [...readFileSync(join(src, file), 'utf8').matchAll(/\b(?:from|import)\s*\(?\s*'([^'\n]+)'/g)].map(
    ([, name = '']) => name,
  );
const own = new Map(
  files.map((file) => [
    file,
    namedBy(file).flatMap((name) => (name.startsWith('./') ? [name.slice(2).replace(/js$/, 'ts')] : [])),
  ]),
);

test('the command uses what the library exports, and nothing behind it', () => {
  const outside = files.flatMap((file) => namedBy(file).filter((name) => /\.\.\/|taxeon\/(src|dist)/.test(name)));
  expect(outside).toEqual([]);
});

test('its files do not import each other in a circle', () => {
  const reaches = (from: string, to: string, seen = new Set<string>()): boolean =>
    (own.get(from) ?? []).some((next) => next === to || (!seen.has(next) && reaches(next, to, seen.add(next))));
  expect(files.filter((file) => reaches(file, file))).toEqual([]);
});
