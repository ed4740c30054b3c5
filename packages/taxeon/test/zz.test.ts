import { readFileSync, writeFileSync } from 'node:fs';
import { command, createCommandLayer } from 'taxeon';
import { createStandIn } from 'taxeon/stand-in';
import { virtualClock } from 'taxeon/testing';
import { test } from 'vitest';
import { kindTables } from './support/argument-table.js';
import { grammarScene, readingOf, unhidden } from './support/grammar.js';
import { oddmereData, startOfAfternoon } from './support/oddmere.js';

test('rewrite arguments', async () => {
  const file = new URL('../../../docs/arguments.md', import.meta.url);
  let kind = '';
  const out: string[] = [];
  const changed: string[] = [];
  for (const row of readFileSync(file, 'utf8').split('\n')) {
    if (row.startsWith('## ')) kind = row.slice(3);
    const m = /^\| (?:`(.+?)`|\(nothing\)) \| (.*) \|$/.exec(row);
    if (m === null) {
      out.push(row);
      continue;
    }
    const typed = (m[1] ?? '').replace(/<U\+([0-9A-F]+)>/g, (_, code) =>
      String.fromCodePoint(Number.parseInt(code, 16)),
    );
    const clock = virtualClock(startOfAfternoon);
    const platform = createStandIn(oddmereData().world, { clock });
    const value = kindTables.find((t) => t.kind === kind)!.arg;
    const layer = createCommandLayer({
      commands: [command({ description: 'x', run: () => 'x', name: 'try', args: { value } })],
      prefixes: ['!'],
      clock,
      timeZone: 'Europe/London',
    });
    const outcome = await layer.handle(
      platform.typed({ person: 'ines', place: 'pellbrook', text: `!try ${typed}` }),
      platform,
    );
    const shown = (v: any): string =>
      v instanceof Date
        ? v.toISOString()
        : v instanceof URL
          ? v.href
          : v && typeof v === 'object' && 'name' in v
            ? v.name
            : JSON.stringify(v);
    const { body, details } = (outcome as any).reply?.notice ?? { body: '' };
    const got = (
      outcome.status !== 'completed'
        ? `says: ${body}`
        : `reads: ${shown((outcome.args as any).value)}${details === undefined ? '' : ` (${details[0]})`}`
    ).replaceAll('\n', '<br>');
    if (got !== m[2]) changed.push(`${kind}: ${typed} | ${m[2]} => ${got}`);
    out.push(`| ${m[1] === undefined ? '(nothing)' : `\`${m[1]}\``} | ${got} |`);
  }
  if (process.env['WRITE']) writeFileSync(file, out.join('\n'));
  console.log(changed.join('\n'));
});
test('rewrite', async () => {
  const file = new URL('../../../docs/input-grammar.md', import.meta.url);
  const rows = readFileSync(file, 'utf8').split('\n');
  let inside = false;
  let heading = '';
  const out: string[] = [];
  const changed: string[] = [];
  for (const row of rows) {
    if (row.startsWith('#')) heading = row;
    if (row.startsWith('````')) inside = row === '````reads';
    else if (inside) {
      const [, l = '', gap = '', reading = ''] = /^(.*?)( *)→ ?(.*)$/.exec(row) ?? [];
      const line = unhidden(l);
      const { layer, platform } = grammarScene();
      const at = heading.includes('direct message') ? 'direct' : 'oddmere/counter';
      const got = readingOf(
        await layer.handle(platform.typed({ person: 'ines', place: at, text: line }), platform),
        line,
      );
      if (got !== reading) changed.push(`${l} | ${reading} => ${got}`);
      out.push(`${l}${gap}→ ${got}`);
      continue;
    }
    out.push(row);
  }
  if (process.env['WRITE']) writeFileSync(file, out.join('\n'));
  console.log(changed.join('\n'));
});
