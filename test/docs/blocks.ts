/** The code that stands in the pages and in doc comments. */
import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import { fileURLToPath } from 'node:url';
import { packages } from '../../scripts/packages.js';

export const root = fileURLToPath(new URL('../..', import.meta.url));

export interface Block {
  /** From the root of the repository on. */
  readonly path: string;
  /** Of its first line of code, from 1 on. */
  readonly line: number;
  /** As it is named behind the fence: `ts`, `yaml`, `ts adapter`; empty where it is not. */
  readonly language: string;
  readonly code: string;
}

/** All pages that people read, from the root on. */
export function pages(): readonly string[] {
  const guide = readdirSync(join(root, 'docs'), { recursive: true, encoding: 'utf8' })
    .filter((name) => name.endsWith('.md'))
    .map((name) => join('docs', name));
  return ['README.md', 'CONTRIBUTING.md', ...packages.map((name) => `packages/${name}/README.md`), ...guide];
}

export function blocksOf(path: string): readonly Block[] {
  const blocks: Block[] = [];
  let open: { readonly language: string; readonly line: number; readonly lines: string[] } | undefined;
  for (const [index, text] of readFileSync(join(root, path), 'utf8').split('\n').entries()) {
    const [, indent = '', language] = /^(\s*)```([\w. -]*)/.exec(text) ?? [];
    if (language === undefined) open?.lines.push(text);
    else if (open === undefined) open = { language, line: index + 2, lines: [] };
    else {
      blocks.push({ path, line: open.line, language: open.language, code: open.lines.join(`\n${indent}`) });
      open = undefined;
    }
  }
  return blocks;
}

/** The examples in the doc comments of a package's sources. */
export function examplesIn(folder: string): readonly Block[] {
  return readdirSync(join(root, folder), { recursive: true, encoding: 'utf8' })
    .filter((name) => /\.ts$/.test(name) && !name.endsWith('.d.ts'))
    .sort()
    .flatMap((name) => examplesOf(join(folder, name)));
}

function examplesOf(path: string): readonly Block[] {
  const text = readFileSync(join(root, path), 'utf8');
  return Array.from(
    text.matchAll(/\* @example\n((?:[ \t]*\*(?!\/)(?! @).*\n)+)/g),
    ({ index, 0: whole, 1: body = '' }) => ({
      path: relative('.', path),
      line: text.slice(0, index + whole.indexOf(body)).split('\n').length,
      language: 'ts',
      code: body.replace(/^[ \t]*\* ?/gm, '').trimEnd(),
    }),
  );
}
