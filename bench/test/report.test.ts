import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import { one, type Row } from '../src/measure/row.js';
import { type Measured, markdown, table } from '../src/report.js';
import { chapters } from '../src/rows/index.js';

const read = (name: string) => readFileSync(new URL(`../../docs/${name}`, import.meta.url), 'utf8');
const run = { machine: 'a machine', date: '2026-05-10', commit: 'abc1234' };

describe('the page of figures', () => {
  const row: Row = { name: 'lend', what: 'lending', goal: 2, unit: '×', why: 'It is far.', measure: () => one(1) };
  const page = (value: number) =>
    markdown([{ title: 'Lending', rows: [row] }], [{ name: 'lend', figure: one(value), ...run }]);

  test('shows what is above its goal, and says why', () => {
    expect(page(2.4)).toContain('| `lend` | lending | ≤ 2× | **2.4×** |');
    expect(page(2.4)).toContain('**lend**: It is far.');
  });

  test('says nothing more of what is reached', () => {
    expect(page(1.25)).toContain('| `lend` | lending | ≤ 2× | 1.25× |');
    expect(page(1.25)).not.toContain('It is far.');
  });

  test('says of which run each figure is', () => {
    const later = { ...run, date: '2026-05-11' };
    const rows = [row, { ...row, name: 'mend' }, { ...row, name: 'count' }];
    const measured: Measured[] = rows.map(({ name }) => ({ name, figure: one(1), ...(name === 'mend' ? later : run) }));
    const text = markdown([{ title: 'All', rows }], measured);
    expect(text).toContain('a machine; 2026-05-10; commit abc1234.');
    expect(text).toContain('a machine; 2026-05-11; commit abc1234: mend.');
  });

  test('gives small and large figures in their units', () => {
    const figure = { value: 1234.5, low: 1000, high: 2000, oursNs: 1500, yardstickNs: 500 };
    expect(table([{ ...row, unit: 'bytes' }], [{ name: 'lend', figure, ...run }])).toContain(
      '| **1,235 bytes** | 1,000–2,000 bytes | 1.50 µs | 500 ns |  |',
    );
  });
});

test('docs/performance.md shows every row there is, as it was measured last', () => {
  const measured = JSON.parse(read('performance.json')) as readonly Measured[];
  const rows = chapters.flatMap((chapter) => chapter.rows);
  expect(measured.map(({ name }) => name)).toEqual(rows.map(({ name }) => name));
  expect(read('performance.md')).toBe(markdown(chapters, measured));
});
