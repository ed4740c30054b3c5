/** The end of docs/http.md: its server is started, and its lines of curl are run as they stand. */
import { type ChildProcess, execFileSync, spawn } from 'node:child_process';
import { mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { blocksOf, root } from '../../../../test/docs/blocks.js';
import { freePort, isMissing } from '../../../../test/support/programs.js';

const blocks = blocksOf('docs/http.md');
const from = blocks.findIndex(({ language }) => language === 'js desk.js');
const server = blocks[from]?.code ?? '';
const turns = blocks.slice(from + 1).flatMap(({ language, code, line }, index, all) => {
  const said = all[index + 1];
  return language === 'sh' && said !== undefined ? [[`line ${line}`, code, said.code] as const] : [];
});
const PORT = 8787;

describe.skipIf(isMissing('curl'))('the end of docs/http.md', () => {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-desk-'));
  const running: ChildProcess[] = [];

  beforeAll(() => {
    symlinkSync(join(root, 'node_modules'), join(folder, 'node_modules'));
  });
  afterAll(() => {
    for (const one of running) one.kill();
    rmSync(folder, { recursive: true });
  });

  /** At a port of its own, since others may be in use. */
  async function started(name: string, code: string, port = 0): Promise<number> {
    const file = join(folder, `${name}.mjs`);
    const own = code.replace(
      `port: ${PORT} }, () => console.log(`,
      `port: ${port} }, ({ port }) => console.log(port, `,
    );
    expect(own).not.toBe(code);
    writeFileSync(file, own);
    const child = spawn(process.execPath, [file], { stdio: ['ignore', 'pipe', 'inherit'] });
    running.push(child);
    return new Promise((resolve) => child.stdout?.on('data', (data) => resolve(Number.parseInt(String(data), 10))));
  }

  const run = (code: string, port: number) =>
    execFileSync('bash', ['-euo', 'pipefail', '-c', code.replaceAll(`localhost:${PORT}`, `localhost:${port}`)], {
      encoding: 'utf8',
    });

  test('has four turns', () => expect(turns).toHaveLength(4));

  test('answers what the page says', async () => {
    const port = await started('desk', server);
    for (const [line, code, said] of turns.slice(0, -1)) expect(`${line} ${run(code, port)}`).toBe(`${line} ${said}`);
  });

  test('takes what is signed by curl and openssl', async () => {
    const [, code = '', said] = turns.at(-1) ?? [];
    const port = await freePort();
    const [, secret] = /secret='([^']+)'/.exec(code) ?? [];
    const signed = server
      .replace(
        /sharedSecret\(\{.*\}\)/,
        `signatures({ keys: { desk: { algorithm: 'hmac-sha256', key: '${secret}' } } }),\n  origin: 'http://localhost:${port}'`,
      )
      .replace('import { sharedSecret,', 'import { signatures,');
    expect(signed).toContain('signatures({ keys');
    await started('signed', signed, port);
    expect(run(code, port)).toBe(said);
    // The same line again is signed anew, with another nonce: it has the first answer.
    expect(run(code, port)).toBe(said);
  });
});
