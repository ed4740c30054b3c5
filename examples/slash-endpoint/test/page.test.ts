/** The example as it is built: its server, and its page in a real browser in place of a chat. */
import { type ChildProcess, spawn } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { barriersOn } from '../../../test/support/axe.js';
import { launchChromium } from '../../../test/support/chromium.js';
import { isMissing } from '../../../test/support/programs.js';

const file = fileURLToPath(new URL('../dist/server/server.js', import.meta.url));

async function started(): Promise<{ readonly server: ChildProcess; readonly address: string }> {
  const server = spawn(process.execPath, [file, '--port', '0'], { stdio: ['ignore', 'pipe', 'inherit'] });
  const address = await new Promise<string>((resolve, reject) => {
    server.on('exit', (code) => reject(new Error(`the server ended with ${code}`)));
    server.stdout?.on('data', (data) => resolve(/chat is at (\S+)/.exec(String(data))?.[1] ?? ''));
  });
  return { server, address };
}

async function use(page: Page, who: string, command: string, fields: Readonly<Record<string, string>> = {}) {
  await page.getByRole('combobox', { name: /^Who/ }).selectOption({ label: who });
  await page.getByRole('combobox', { name: /^Command/ }).selectOption({ label: command });
  for (const [name, value] of Object.entries(fields)) await page.getByLabel(new RegExp(`^${name}`)).fill(value);
  await page.getByRole('button', { name: 'Post it' }).click();
}

const said = (page: Page, text: string) => page.getByRole('listitem').filter({ hasText: text });

describe.skipIf(isMissing('chromium'))('a page in place of a chat', () => {
  let browser: Browser;
  let server: ChildProcess;
  let address: string;
  beforeAll(async () => {
    ({ server, address } = await started());
    browser = await launchChromium();
  });
  afterAll(async () => {
    await browser?.close();
    server?.kill();
  });

  test.each(['light', 'dark'] as const)(
    'signs and posts commands, and shows private and late answers, %s',
    async (colorScheme) => {
      const page = await browser.newPage({ viewport: { width: 390, height: 800 }, colorScheme });
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(String(error)));
      await page.goto(address);
      await use(page, 'Ines', '/fine', { who: 'Tobias', pence: '150' });
      await said(page, 'Tobias owes £1.50').waitFor();
      // By text, as it is typed in a chat.
      await page.getByRole('combobox', { name: /^Filled/ }).selectOption('text');
      await use(page, 'Pim', '/borrow', { text: 'spade 2d for the fence' });
      const refusal = said(page, 'You need the permission borrow');
      await refusal.waitFor();
      expect(await refusal.textContent()).toContain('for Pim alone');
      await page.getByRole('combobox', { name: /^Who/ }).selectOption({ label: 'Wren' });
      expect(await refusal.isVisible()).toBe(false);
      await page.getByRole('combobox', { name: /^Filled/ }).selectOption('options');
      await use(page, 'Ines', '/stocktake');
      await said(page, 'The answer comes later').last().waitFor();
      await said(page, 'Not there, and not lent: clamps.').last().waitFor();
      expect(await said(page, 'Stocktake').last().textContent()).toContain('came late');
      expect(await page.getByLabel('The last post').textContent()).toMatch(
        /signature-input: sig1=\("@method" "@target-uri"/,
      );
      expect(await barriersOn(page)).toEqual([]);
      expect(await page.evaluate('document.documentElement.scrollWidth')).toBeLessThanOrEqual(390);
      expect(errors).toEqual([]);
      await page.close();
    },
  );

  test('takes nothing that is not signed, and what is the page’s from the page alone', async () => {
    const body = JSON.stringify({ event: 'e1', person: { id: 'ines' }, command: 'shelf' });
    const headers = { 'content-type': 'application/json' };
    expect((await fetch(`${address}slash`, { method: 'POST', headers, body })).status).toBe(401);
    expect(
      (await fetch(`${address}chat/keys`, { method: 'POST', headers: { 'content-type': 'text/plain' }, body })).status,
    ).toBe(403);
    expect((await fetch(`${address}chat/keys`, { method: 'POST', headers, body: 'x'.repeat(100_000) })).status).toBe(
      413,
    );
  });

  test('ends when it is told to, though a page listens', async () => {
    const { server: other, address: there } = await started();
    const page = await browser.newPage();
    await page.goto(there);
    await page.getByRole('button', { name: 'Post it' }).waitFor();
    const ended = new Promise((resolve) => other.on('exit', resolve));
    other.kill('SIGTERM');
    expect(await ended).toBe(0);
    await page.close();
  });
});
