/** An endpoint in a service worker: what a page of the same origin posts, the worker answers, without any server behind it. */

import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { build } from 'vite';
import { describe, expect, test } from 'vitest';
import { entriesOf, folderOf, packages } from '../../../../scripts/packages.js';
import { launchChromium } from '../../../../test/support/chromium.js';
import { isMissing } from '../../../../test/support/programs.js';
import { signedPost, signingKey } from '../support/signing.js';

const worker = (key: unknown) => `
import { command, createCommandLayer } from 'taxeon';
import { signatures, slashEndpoint } from '@taxeon/http';
const slow = command({
  name: 'slow', description: 'Take a while',
  run: () => new Promise((resolve) => setTimeout(() => resolve('At last.'), 300)),
});
const lamp = command({ name: 'lamp', description: 'Light the lamp', run: () => 'The lamp is lit.' });
const late = [];
const endpoint = slashEndpoint(createCommandLayer({ commands: [lamp, slow] }), {
  proof: signatures({ keys: { desk: ${JSON.stringify(key)} } }),
  origin: location.origin,
  read: ({ get }) => ({ id: get('event'), caller: { id: get('person') }, command: get('command') }),
  deadline: '200ms',
  send: ({ body }) => void late.push(body.text),
});
addEventListener('install', () => skipWaiting());
addEventListener('activate', (event) => event.waitUntil(clients.claim()));
addEventListener('fetch', (event) => {
  const { pathname } = new URL(event.request.url);
  if (pathname === '/slash') event.respondWith(endpoint(event.request, event));
  if (pathname === '/late') event.respondWith(Response.json(late));
});
`;

describe.skipIf(isMissing('chromium'))('an endpoint in a service worker', () => {
  test('proves, answers, holds, and says late what was held', async () => {
    const { signer, verifying } = await signingKey('ed25519');
    const folder = mkdtempSync(join(tmpdir(), 'oddmere-worker-'));
    const built = packages.flatMap((name) =>
      entriesOf(name).map(({ entry, built }) => ({
        find: new RegExp(`^${entry}$`),
        replacement: join(folderOf(name), built),
      })),
    );
    writeFileSync(join(folder, 'worker.js'), worker(verifying));
    await build({
      configFile: false,
      logLevel: 'silent',
      root: folder,
      resolve: { alias: built },
      build: {
        outDir: 'out',
        lib: { entry: 'worker.js', formats: ['iife'], name: 'worker', fileName: () => 'worker.js' },
      },
    });
    const script = readFileSync(join(folder, 'out/worker.js'), 'utf8');
    const server = createServer((request, response) => {
      response.setHeader('content-type', request.url === '/worker.js' ? 'text/javascript' : 'text/html');
      response.end(request.url === '/worker.js' ? script : '<title>Oddmere Tool Library</title>');
    });
    await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
    const origin = `http://localhost:${(server.address() as AddressInfo).port}`;
    const browser = await launchChromium();
    try {
      const tab = await browser.newPage();
      await tab.goto(origin);
      await tab.evaluate(`navigator.serviceWorker.register('/worker.js').then(() => navigator.serviceWorker.ready)`);
      await tab.waitForFunction('navigator.serviceWorker.controller !== null');
      const post = async (command: string, event: string, change = (text: string) => text) => {
        const body = JSON.stringify({ event, person: 'wren', command });
        const signed = await signedPost(body, { signer, keyid: 'desk', at: Date.now(), url: `${origin}/slash` });
        const init = { method: 'POST', headers: Object.fromEntries(signed.headers), body: change(body) };
        return tab.evaluate(
          `fetch('/slash', ${JSON.stringify(init)}).then(async (response) => [response.status, await response.text()])`,
        );
      };
      expect(await post('lamp', 'e1')).toEqual([200, '{"text":"The lamp is lit.","visibleTo":"everyone"}']);
      expect(await post('lamp', 'e2', (text) => text.replace('wren', 'ines'))).toEqual([401, '']);
      expect(await post('slow', 'e3')).toEqual([202, '']);
      await tab.waitForFunction(
        `fetch('/late').then((response) => response.json()).then(([text]) => text === 'At last.')`,
      );
    } finally {
      await browser.close();
      server.close();
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
