import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileStore } from '@taxeon/file-store';
import { afterAll, describe, expect, test } from 'vitest';
import { script, start, until } from '../../../../test/support/programs.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-processes-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

interface Report {
  readonly granted: number;
  readonly refused: number;
  readonly beside: number;
  readonly longestCallMs: number;
  readonly longestDelayMs: number;
}

describe('four processes on one file', () => {
  test('are never granted more than the window allows, take nothing when refused, and survive the death of one', async () => {
    const path = join(folder, 'hammered.db');
    const [uses, windowMs] = [25, 200];
    fileStore({ path }).close();
    // Starting takes a while where the machine is busy.
    const stopAt = Date.now() + 6_000;
    const args = [script('hammer.js'), path, String(stopAt), String(uses), String(windowMs)];
    const processes = Array.from({ length: 4 }, () => {
      const started = start(process.execPath, args);
      let out = '';
      started.child.stdout?.on('data', (data) => (out += data));
      return { started, out: () => out };
    });
    const [victim, ...others] = processes;
    await until(() => victim?.out().includes('grant') === true, 'the first process was granted something');
    victim?.started.child.kill('SIGKILL');
    const finished = await Promise.all(processes.map(({ started }) => started.finished));
    const grants = finished
      .flatMap(({ out }) => [...out.matchAll(/grant ([\d.]+)\n/g)].map(([, at]) => Math.floor(Number(at))))
      .sort((a, b) => a - b);
    for (const [index, at] of grants.entries()) {
      const earlier = grants[index - uses];
      if (earlier !== undefined) expect(at - earlier).toBeGreaterThanOrEqual(windowMs);
    }
    expect(finished.slice(1).map(({ err }) => err)).toEqual(['', '', '']);
    const reports = others.map(({ out }): Report => JSON.parse(/done (.*)\n/.exec(out())?.[1] ?? '{}'));
    // What was refused by the one limit took nothing of the other.
    for (const { granted, beside } of reports) expect(beside).toBe(granted);
    expect(reports.reduce((sum, { refused }) => sum + refused, 0)).toBeGreaterThan(0);
    expect(grants.length).toBeGreaterThan(uses * 2);
    console.log(
      `${grants.length} grants; longest call, of the longest event-loop delay: ${reports
        .map(({ longestCallMs, longestDelayMs }) => `${longestCallMs.toFixed(1)} of ${longestDelayMs.toFixed(1)} ms`)
        .join(', ')}`,
    );
  });
});

test('a disk that is full is told as such, ends nothing, and loses nothing that was kept before', async () => {
  const path = join(folder, 'full.db');
  // In units of a kilobyte or half of one, as the shell has it.
  const { finished } = start('bash', [
    '-c',
    `ulimit -f 600; exec "${process.execPath}" "${script('growing.js')}" "${path}"`,
  ]);
  const { out, err } = await finished;
  expect({ err, told: JSON.parse(out) }).toEqual({ err: '', told: { problem: 'full', live: 1, isWritten: true } });
});
