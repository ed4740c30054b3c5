/** What keeps people from using a page, by axe-core: each rule that is not held, with the first place. */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Page } from 'playwright-core';

const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

export async function barriersOn(page: Page): Promise<unknown> {
  await page.addScriptTag({ content: axe });
  return page.evaluate('axe.run().then(({ violations }) => violations.map(({ id, nodes }) => [id, nodes[0].html]))');
}
