/** The built page in a real browser, opened as a file. */
import type { Browser } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { barriersOn } from '../../../test/support/axe.js';
import { launchChromium } from '../../../test/support/chromium.js';
import { isMissing } from '../../../test/support/programs.js';

const address = new URL('../dist/index.html', import.meta.url).href;

describe.skipIf(isMissing('chromium'))('the afternoon in figures', () => {
  let browser: Browser;
  beforeAll(async () => {
    browser = await launchChromium();
  });
  afterAll(() => browser?.close());

  test.each(['light', 'dark'] as const)('adds up, names nobody, and is read by all, %s', async (colorScheme) => {
    const page = await browser.newPage({ viewport: { width: 390, height: 800 }, colorScheme });
    const errors: string[] = [];
    page.on('pageerror', (error) => errors.push(String(error)));
    await page.goto(address);
    const table = page.getByRole('table', { name: 'How calls ended' });
    await table.waitFor();
    const told = Number(/of (\d+) calls/.exec((await page.locator('header').textContent()) ?? '')?.[1]);
    const counts = await table.locator('tbody tr td:last-child').allTextContents();
    expect(told).toBeGreaterThan(80);
    expect(counts.reduce((sum, count) => sum + Number(count), 0)).toBe(told);
    expect(await page.locator('body').textContent()).not.toMatch(/Wren|Tobias|Ines|Odalys|Oddmere/);
    expect(
      await page
        .getByRole('table', { name: /^One call, borrow/ })
        .locator('tbody th')
        .allTextContents(),
    ).toEqual(['resolve', 'reach', 'access', 'read', 'standing', 'limits', 'run', 'reply']);
    expect(await barriersOn(page)).toEqual([]);
    expect(await page.evaluate('document.documentElement.scrollWidth')).toBeLessThanOrEqual(390);
    expect(errors).toEqual([]);
    await page.close();
  });
});
