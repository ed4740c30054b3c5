import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'vite';
import { describe, expect, test } from 'vitest';
import { launchChromium } from '../../../../test/support/chromium.js';
import { isMissing } from '../../../../test/support/programs.js';

/** What runs in the page: the core alone, one command, one line of each kind. */
const page = `
import { arg, command, createCommandLayer } from 'taxeon';
const fine = command({
  name: 'fine', aliases: ['charge'], description: 'Charge', args: { pence: arg.integer({ min: 1, max: 500 }), note: arg.tail({ optional: true }) },
  cooldowns: { user: '1 in 1m' }, run: ({ args, caller }) => caller.name + ' owes ' + args.pence + (args.note ?? ''),
});
const layer = createCommandLayer({ commands: [fine], prefixes: ['!'] });
globalThis.say = async (text) => {
  const outcome = await layer.handle({ surface: 'text', text, caller: { kind: 'user', id: 'wren', name: 'Wren' }, place: { kind: 'direct', channel: { id: 'd', name: 'd' } }, at: Date.now() });
  return { status: outcome.status, code: outcome.code ?? null, body: outcome.reply?.notice.body ?? null };
};
`;

describe.skipIf(isMissing('chromium'))('the core in a real browser', () => {
  test('bundled by Vite, it handles commands', async () => {
    const folder = mkdtempSync(join(tmpdir(), 'oddmere-page-'));
    try {
      writeFileSync(join(folder, 'page.js'), page);
      await build({
        configFile: false,
        logLevel: 'silent',
        root: folder,
        resolve: { alias: { taxeon: fileURLToPath(new URL('../../dist/index.js', import.meta.url)) } },
        build: { outDir: 'out', lib: { entry: 'page.js', formats: ['iife'], name: 'page', fileName: () => 'page.js' } },
      });
      const bundle = readFileSync(join(folder, 'out/page.js'), 'utf8');
      // A kind that the page does not use is left out.
      expect(bundle).not.toContain('RGI_Emoji');
      const browser = await launchChromium();
      try {
        const tab = await browser.newPage();
        const errors: string[] = [];
        tab.on('pageerror', (error) => errors.push(error.message));
        await tab.setContent('<title>Oddmere Tool Library</title>');
        await tab.addScriptTag({ content: bundle });
        const say = (text: string) => tab.evaluate(`say(${JSON.stringify(text)})`);
        expect(await say('good morning')).toEqual({ status: 'ignored', code: null, body: null });
        expect(await say('!charge 10abc')).toMatchObject({ status: 'invalid', code: 'argument.invalid' });
        expect(await say('!charge 50 for the saw')).toEqual({
          status: 'completed',
          code: null,
          body: 'Wren owes 50for the saw',
        });
        expect(await say('!fine 50')).toMatchObject({ status: 'refused', code: 'cooldown.active' });
        expect(errors).toEqual([]);
      } finally {
        await browser.close();
      }
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });
});
