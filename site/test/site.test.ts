/** The site as it is built: every link leads somewhere, and a real browser finds its way. */
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import { createRequire } from 'node:module';
import type { AddressInfo } from 'node:net';
import { extname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Browser, Page } from 'playwright-core';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { launchChromium } from '../../test/support/chromium.js';
import { isMissing, start } from '../../test/support/programs.js';

const site = fileURLToPath(new URL('../', import.meta.url));
const dist = join(site, 'dist');
const types = {
  '.html': 'text/html',
  '.js': 'text/javascript',
  '.css': 'text/css',
  '.json': 'application/json',
  '.png': 'image/png',
};
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

beforeAll(async () => {
  const { status, err } = await start(process.execPath, ['build.js'], { cwd: site }).finished;
  // Every public name is documented, and functions have examples.
  expect({ status, err: err.replace(/.*warning.*\n/g, '') }).toEqual({ status: 0, err: '' });
}, 180_000);

const pages = () => readdirSync(dist).filter((name) => name.endsWith('.html'));
const read = (page: string) => readFileSync(join(dist, page), 'utf8');

test('has the guide, the recipes, the reference and the playground', () => {
  expect(pages()).toEqual(
    expect.arrayContaining(['index.html', 'first-bot.html', 'recipes.html', 'reference-taxeon.html', 'testing.html']),
  );
  expect(existsSync(join(dist, 'playground/index.html'))).toBe(true);
});

test('every link leads to a page, and to a place in it', () => {
  const ids = new Map(
    pages().map((page) => [page, new Set(Array.from(read(page).matchAll(/ id="([^"]+)"/g), ([, id]) => id))]),
  );
  const broken = pages().flatMap((page) =>
    [...read(page).matchAll(/<a [^>]*href="([^"]+)"/g)].flatMap(([, link = '']) => {
      if (/^https?:/.test(link)) return [];
      const [file, anchor] = link.split('#');
      const target = file === '' ? page : (file ?? page);
      if (!existsSync(join(dist, target))) return [`${page}: ${link}`];
      return anchor === undefined || ids.get(target)?.has(anchor) === true ? [] : [`${page}: ${link}`];
    }),
  );
  expect(broken).toEqual([]);
});

test('every picture is there', () => {
  const missing = pages().flatMap((page) =>
    [...read(page).matchAll(/<img src="([^"]+)"/g)]
      .filter(([, source = '']) => !existsSync(join(dist, source)))
      .map(([, source]) => `${page}: ${source}`),
  );
  expect(missing).toEqual([]);
});

describe.skipIf(isMissing('chromium'))('in a browser', () => {
  let browser: Browser;
  let server: Server;
  const at = (page: string) => `http://127.0.0.1:${(server.address() as AddressInfo).port}/${page}`;

  beforeAll(async () => {
    server = createServer((request, response) => {
      const file = join(dist, new URL(request.url ?? '/', 'http://site').pathname);
      if (!existsSync(file)) return void response.writeHead(404).end();
      response
        .writeHead(200, { 'content-type': types[extname(file) as keyof typeof types] ?? 'text/plain' })
        .end(readFileSync(file));
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    browser = await launchChromium();
  });
  afterAll(async () => {
    await browser?.close();
    server?.close();
  });

  async function opened(
    page: string,
    options: { readonly width?: number; readonly colorScheme?: 'dark' | 'light' } = {},
  ): Promise<Page> {
    const { width = 1280, colorScheme = 'light' } = options;
    const tab = await browser.newPage({ viewport: { width, height: 800 }, colorScheme });
    await tab.goto(at(page));
    return tab;
  }

  test('the search finds a heading with a letter missing, and Enter goes there', async () => {
    const tab = await opened('index.html');
    await tab.keyboard.press('/');
    await tab.keyboard.type('dampng');
    await tab.locator('#found a').first().waitFor();
    await tab.keyboard.press('Enter');
    await tab.waitForURL(/#damping$/);
    await tab.keyboard.press('/');
    await tab.keyboard.type('createCommandLayer');
    await tab.locator('#found a', { hasText: 'createCommandLayer' }).first().click();
    await tab.waitForURL(/reference-taxeon\.html#createcommandlayer$/);
    await tab.keyboard.press('/');
    await tab.keyboard.type('xyzzyq');
    await tab.locator('#found', { hasText: 'Nothing about “xyzzyq”.' }).waitFor();
    await tab.close();
  });

  test('a phone has room for every page, and the menu is folded', async () => {
    const tab = await opened('index.html', { width: 390 });
    for (const page of pages()) {
      await tab.goto(at(page));
      expect([page, await tab.evaluate('document.documentElement.scrollWidth')]).toEqual([page, 390]);
    }
    expect(await tab.locator('details.pages').getAttribute('open')).toBe(null);
    await tab.locator('details.pages summary').click();
    await tab.locator('details.pages a', { hasText: 'Testing' }).click();
    await tab.waitForURL(/testing\.html$/);
    await tab.close();
  });

  test.each(['light', 'dark'] as const)('%s colours can be read by everybody', async (colorScheme) => {
    for (const page of ['index.html', 'reference-taxeon-platform.html', 'recipes-moderation.html']) {
      const tab = await opened(page, { colorScheme });
      await tab.evaluate(axe);
      const { violations } = (await tab.evaluate('axe.run()')) as {
        violations: { id: string; nodes: { html: string }[] }[];
      };
      expect(violations.map(({ id, nodes }) => [page, id, nodes[0]?.html])).toEqual([]);
      await tab.close();
    }
  });
});
