/**
 * Measures all rows, or those whose name begins with what `--only` says, and prints a table. `--json FILE` writes the
 * figures, too, and `--write` puts them into docs/performance.md. `--page` writes that page anew and measures nothing.
 */
import { spawnSync } from 'node:child_process';
import { closeSync, existsSync, openSync, readFileSync, writeFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { spreadOf } from './measure/compare.js';
import type { Figure, Row } from './measure/row.js';
import { orEnd } from './or-end.js';
import { type Measured, markdown, table } from './report.js';
import { chapters } from './rows/index.js';
import { surroundings } from './surroundings.js';

const { values: asked } = orEnd(() =>
  parseArgs({
    options: {
      only: { type: 'string', multiple: true },
      json: { type: 'string' },
      write: { type: 'boolean', default: false },
      page: { type: 'boolean', default: false },
    },
  }),
);
const rows = chapters.flatMap((chapter) => chapter.rows);
const chosen = rows.filter(({ name }) => asked.only?.some((begin) => name.startsWith(begin)) ?? true);
if (chosen.length === 0) {
  console.error(`There is no such row. There are: ${rows.map(({ name }) => name).join(', ')}`);
  process.exit(2);
}

const RESULTS = fileURLToPath(new URL('../../docs/performance.json', import.meta.url));
const PAGE = fileURLToPath(new URL('../../docs/performance.md', import.meta.url));

if (asked.page) {
  writePage([]);
  process.exit(0);
}

const { json: file } = asked;
// Before minutes are spent on what cannot be written.
if (file !== undefined) orEnd(() => closeSync(openSync(file, 'a')));

const { machine, date, commit } = surroundings();
const measured: Measured[] = [];
for (const row of chosen) {
  process.stderr.write(`${row.name} … `);
  const began = performance.now();
  const figure = figureOf(row);
  if (figure === undefined) process.exitCode = 1;
  else measured.push({ name: row.name, figure, machine, date, commit });
  process.stderr.write(`${((performance.now() - began) / 1000).toFixed(0)} s\n`);
}
console.log(`\n${machine}, ${date}, ${commit}\n\n${table(chosen, measured)}`);
if (file !== undefined) writeFileSync(file, json(measured));
if (asked.write) writePage(measured);

/** With the figures of before for the rows that were not measured now. */
function writePage(now: readonly Measured[]): void {
  const before = existsSync(RESULTS) ? (JSON.parse(readFileSync(RESULTS, 'utf8')) as readonly Measured[]) : [];
  const byName = new Map([...before, ...now].map((one) => [one.name, one]));
  const all = rows.flatMap(({ name }) => byName.get(name) ?? []);
  writeFileSync(RESULTS, json(all));
  writeFileSync(PAGE, markdown(chapters, all));
}

function json(figures: readonly Measured[]): string {
  return `${JSON.stringify(figures, undefined, 2)}\n`;
}

/** `undefined` where a process failed, which has said why. */
function figureOf({ name, processes = 1 }: Row): Figure | undefined {
  const figures = Array.from({ length: processes }, () => inProcess(name)).filter((one) => one !== undefined);
  if (figures.length < processes) return undefined;
  return processes === 1 ? figures[0] : spreadOf(figures.map(({ value }) => value));
}

function inProcess(name: string): Figure | undefined {
  const script = fileURLToPath(new URL('row.js', import.meta.url));
  // So much room for the young that no batch of which the bytes are counted meets a collection.
  const flags = [
    '--expose-gc',
    ...(name.endsWith('bytes') ? ['--max-semi-space-size=256', '--min-semi-space-size=256'] : []),
  ];
  const { status, stdout } = spawnSync(process.execPath, [...flags, script, name], {
    encoding: 'utf8',
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  return status === 0 ? (JSON.parse(stdout.trim().split('\n').at(-1) ?? '') as Figure) : undefined;
}
