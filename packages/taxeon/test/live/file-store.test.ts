import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { command, createCommandLayer, guildSettings } from 'taxeon';
import { fileStore } from 'taxeon/file-store';
import { afterAll, describe, expect, test } from 'vitest';
import { oddmere, silentLog } from '../support/oddmere.js';
import { script, start, until } from '../support/programs.js';

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
    const stopAt = Date.now() + 3_500;
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
    expect(grants.length).toBeGreaterThan(uses * 8);
    console.log(
      `${grants.length} grants; longest call, of the longest event-loop delay: ${reports
        .map(({ longestCallMs, longestDelayMs }) => `${longestCallMs.toFixed(1)} of ${longestDelayMs.toFixed(1)} ms`)
        .join(', ')}`,
    );
  });
});

test('a cooldown taken before the process dies is still there after', async () => {
  const path = join(folder, 'killed.db');
  const { out } = await start(process.execPath, [script('settler.js'), path, 'cooldown']).finished;
  expect(out).toBe('taken\n');
  const store = fileStore({ path });
  expect(await store.acquire([{ id: 'kept', uses: 1, windowMs: 600_000 }], ['wren'])).toMatchObject({ granted: false });
  await store.close();
});

test('a setting that one process changes is seen by another within a second', async () => {
  const path = join(folder, 'settings.db');
  const store = fileStore({ path });
  const settings = guildSettings({ store, log: silentLog });
  const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' });
  const scene = await oddmere(() =>
    createCommandLayer({ commands: [lamp], prefixes: ['!'], store, settings, log: silentLog }),
  );
  expect((await scene.types('wren', '!lamp')).outcome.status).toBe('completed');
  await start(process.execPath, [script('settler.js'), path, 'settings']).finished;
  await until(
    async () => (await scene.types('wren', '%lamp')).outcome.status === 'completed',
    'the new prefix holds',
    1000,
  );
  await store.close();
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

test('four processes that start at once on one store: one registers, the rest find nothing to do', async () => {
  const path = join(folder, 'registering.db');
  const registry = join(folder, 'registry.json');
  fileStore({ path }).close();
  const processes = Array.from({ length: 4 }, () =>
    start(process.execPath, [script('registering.js'), path, registry]),
  );
  const finished = await Promise.all(processes.map(({ finished: done }) => done));
  expect(finished.map(({ err }) => err)).toEqual(['', '', '', '']);
  const told = finished.map(({ out }) => JSON.parse(out) as { outcome: string; created: number; calls: number });
  expect(told.map(({ outcome, created }) => `${outcome} ${created}`).sort()).toEqual([
    'carried-out 8',
    'unchanged 0',
    'unchanged 0',
    'unchanged 0',
  ]);
  expect(told.filter(({ outcome }) => outcome === 'unchanged').map(({ calls }) => calls)).toEqual([1, 1, 1]);
  const { held } = JSON.parse(readFileSync(registry, 'utf8')) as { held: { global: unknown[] } };
  expect(held.global).toHaveLength(8);
});
