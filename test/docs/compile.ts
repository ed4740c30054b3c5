/** Compiling the code of the pages as somebody's who has the library installed: in one run of the compiler. */
import { execFile } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { entriesOf, packages } from '../../scripts/packages.js';
import type { Block } from './blocks.js';
import { root } from './blocks.js';

const tsc = join(dirname(createRequire(import.meta.url).resolve('typescript/package.json')), 'bin', 'tsc');

/** What is wrong with each block, as `docs/asking.md:32: Cannot find name …`. */
export async function compileProblems(blocks: readonly Block[]): Promise<readonly string[]> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-blocks-'));
  try {
    symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
    const inner = join(folder, 'src', 'commands');
    // Some blocks stand in folders, and import from those around them.
    for (const each of [folder, dirname(inner), inner])
      cpSync(fileURLToPath(new URL('given/', import.meta.url)), each, { recursive: true });
    writeFileSync(join(folder, 'package.json'), '{ "type": "module" }');
    writeFileSync(join(folder, 'tsconfig.json'), JSON.stringify({ compilerOptions, include: ['.'] }));
    const names = new Map(
      blocks.map((block, index) => {
        const name = `${index}-${basename(block.path).replace(/\W/g, '-')}.ts`;
        writeFileSync(join(inner, name), moduleOf(block));
        return [name, block] as const;
      }),
    );
    const told = await output([tsc, '-p', folder, '--pretty', 'false']);
    return told.split('\n').flatMap((line) => {
      const [, name = '', at = '', problem = ''] = /([\w-]+\.ts)\((\d+),\d+\): error TS\d+: (.*)$/.exec(line) ?? [];
      const block = names.get(name);
      return block === undefined ? (line.includes('error') ? [line] : []) : [`${block.path}:${at}: ${problem}`];
    });
  } finally {
    rmSync(folder, { recursive: true });
  }
}

const compilerOptions = {
  target: 'es2023',
  lib: ['es2023', 'dom'],
  module: 'nodenext',
  strict: true,
  noUncheckedIndexedAccess: true,
  exactOptionalPropertyTypes: true,
  skipLibCheck: true,
  noEmit: true,
  types: ['node'],
  // Blocks of a page show how things are made, and need not use them.
  noUnusedLocals: false,
};

function output(args: readonly string[]): Promise<string> {
  return new Promise((resolve) => {
    execFile(process.execPath, args, { maxBuffer: 10_000_000 }, (_, out, err) => resolve(out + err));
  });
}

/** With the code on the line that it has in its page. What a block does not import comes from the library. */
function moduleOf({ code, line }: Block): string {
  const imports = [...exported].flatMap(([from, names]) => {
    const own = code.includes(`from '${from}'`);
    const used = names.filter((name) => isUsed(name, code));
    return own || used.length === 0 ? [] : [`import { ${used.join(', ')} } from '${from}';`];
  });
  return `export {}; ${imports.join(' ')}${'\n'.repeat(line - 1)}${code}\n`;
}

/** Used and not made by the block. */
function isUsed(name: string, code: string): boolean {
  const word = new RegExp(`(?<![\\w$'/-])(?<!(?<!\\.\\.)\\.)${name}(?![\\w$'/-])(?!\\s*:(?!:))`);
  const isMade = new RegExp(
    `(?:(?:const|let) \\{[^}]*|const|let|function|class|interface|type|import \\{[^}]*)\\s+(?:type )?${name}\\b`,
  );
  return word.test(code) && !isMade.test(code);
}

/** By entry of the package; types and values alike. */
const exported = exportedNames();

function exportedNames(): ReadonlyMap<string, readonly string[]> {
  const seen = new Set<string>();
  return new Map(
    packages.flatMap(entriesOf).flatMap(({ entry, file }) => {
      // The kinds are in `arg`, too.
      const names = entry === 'taxeon/arg' ? [] : namesIn(readFileSync(file, 'utf8')).filter((name) => !seen.has(name));
      for (const name of names) seen.add(name);
      return names.length === 0 ? [] : [[entry, names] as const];
    }),
  );
}

/** What an entry exports. */
export function namesIn(source: string): readonly string[] {
  const listed = Array.from(source.matchAll(/^export (?:type )?\{([^}]*)\}/gm), ([, list = '']) => list.split(','));
  const made = Array.from(
    source.matchAll(/^export (?:async )?(?:\* as|function|const|class|interface|type) (\w+)/gm),
    ([, name = '']) => name,
  );
  return [...listed.flat().map((name) => name.trim().replace(/^type |^.* as /, '')), ...made].filter(
    (name) => name !== '',
  );
}
