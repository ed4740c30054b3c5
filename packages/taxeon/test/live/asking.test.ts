import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createCommandLayer, plainText } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { fileStore } from 'taxeon/file-store';
import { standIn } from 'taxeon/stand-in';
import { afterAll, expect, test } from 'vitest';
import { fine } from '../support/asking.js';
import { oddmereData, silentLog } from '../support/oddmere.js';
import { script, start, until } from '../support/programs.js';

const folder = mkdtempSync(join(tmpdir(), 'oddmere-asking-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const world = join(folder, 'world.json');
writeFileSync(world, JSON.stringify(oddmereData().world));

/** Another process, which has been told a line of Ines'. */
async function asker(path: string, line: string) {
  const { child } = start(process.execPath, [script('asker.js'), path, world, line]);
  let out = '';
  child.stdout?.on('data', (data) => (out += data));
  await until(() => out !== '', 'the other process has answered');
  return { out, kill: () => child.kill('SIGKILL') };
}

/** A process of ours on the same file. */
async function opened(path: string) {
  const platform = standIn(oddmereData().world);
  const store = fileStore({ path, log: silentLog });
  const layer = createCommandLayer({ commands: [fine], prefixes: ['!'], store, log: silentLog, asking: askInChat() });
  await platform.serve(layer);
  const says = async (text: string) => {
    const { posts } = await platform.send(platform.typed({ person: 'ines', place: 'oddmere/counter', text }));
    return posts.map(({ notice }) => notice.body).join();
  };
  return { platform, says, close: () => layer.close().then(() => store.close()) };
}

test('one process asks, another that heard of it takes the answer', async () => {
  const path = join(folder, 'shared.db');
  const one = await opened(path);
  const other = await asker(path, '!fine Tobias');
  expect(other.out).toBe('waiting\n');
  await until(async () => (await one.says('50')) === 'Tobias pays 50.', 'the answer is taken', 1500);
  expect(await one.says('50')).toBe('');
  await one.close();
  other.kill();
});

test('a question outlasts the process that asked, killed in between', async () => {
  const path = join(folder, 'killed.db');
  const other = await asker(path, '!fine Tobias');
  expect(other.out).toBe('waiting\n');
  other.kill();
  const one = await opened(path);
  await until(async () => (await one.says('50')) === 'Tobias pays 50.', 'the answer is taken', 1500);
  await one.close();
});

test('a handler’s question whose process was killed is told to be over', async () => {
  const path = join(folder, 'handler.db');
  const other = await asker(path, '!fine Tobias 50');
  expect(other.out).toBe('Sure?\n');
  other.kill();
  const one = await opened(path);
  const told = () => one.platform.posts.map(({ notice }) => plainText(notice)).join();
  await until(() => told() !== '', 'the person was told', 10_000);
  expect(told()).toBe('I had to restart, so I do not wait for your answer any more. Please begin again.');
  await one.close();
});
