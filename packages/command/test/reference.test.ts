import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import MarkdownIt from 'markdown-it';
import { expect, test } from 'vitest';
import { launchChromium } from '../../../test/support/chromium.js';
import { isMissing } from '../../../test/support/programs.js';
import { folderOf } from './support.js';

const demo = {
  'taxeon.config.mjs': `export { default } from ${JSON.stringify(new URL('../dist/demo/taxeon.config.js', import.meta.url).href)};`,
};

interface Told {
  readonly locale: string;
  readonly as?: string;
  readonly sections: readonly {
    readonly heading?: string;
    readonly commands: readonly { readonly name: string; readonly usage: string }[];
  }[];
}

async function told(...args: readonly string[]): Promise<Told> {
  const { status, out, err } = await folderOf(demo).taxeon('reference', '--json', ...args);
  expect({ status, err }).toEqual({ status: 0, err: '' });
  return JSON.parse(out);
}
const namesIn = ({ sections }: Told) => sections.flatMap(({ commands }) => commands.map(({ name }) => name));

test('tells all commands by section, or those that a role or a person may run, with the guild’s prefix', async () => {
  const all = await told();
  expect(all.sections.map(({ heading }) => heading)).toEqual(['Lending', 'For stewards', undefined, 'Settings']);
  expect(namesIn(all)).toContain('overdue remind');
  const borrower = namesIn(await told('--as', 'borrower'));
  expect(borrower).toEqual(['borrow', 'return', 'reserve', 'shelf', 'help']);
  expect(namesIn(await told('--as', 'wren'))).toEqual(borrower);
  expect(namesIn(await told('--as', 'keeper'))).toContain('time-zone');
  const [lending] = (await told('--in', 'pellbrook', '--as', 'fixer')).sections;
  expect(lending?.commands[0]?.usage).toBe('?borrow <tool> [keep] [note…]');
});

test('writes a prefix that is a word, too', async () => {
  const { taxeon } = folderOf({
    'taxeon.config.mjs': `import { command, createCommandLayer } from 'taxeon';
      import { standIn } from '@taxeon/testing';
      import data from ${JSON.stringify(demo['taxeon.config.mjs'].split('"')[1])};
      export default { ...data, open: async (given) => ({
        platform: (await data.open(given)).platform,
        layer: createCommandLayer({ ...given, prefixes: ['mallet', '!'], commands: [command({ name: 'lamp', description: 'Light it', run: () => 'On.' })] }),
      }) };`,
  });
  expect((await taxeon('reference')).out).toContain('mallet lamp');
});

test('speaks the languages of the bot, and refuses others', async () => {
  const { status, out } = await folderOf(demo).taxeon('reference', '--language', 'ja');
  expect(status).toBe(0);
  expect(out).toMatch(/^# .*Oddmere Tool Library\n[\s\S]*道具を借りる/);
  expect((await told('--language', 'pl-PL')).locale).toBe('pl');
  for (const [args, expected] of [
    [['--language', 'english'], 'taxeon: The bot does not speak "english"; '],
    [['--language', 'cy'], 'taxeon: The bot does not speak "cy"; give it in `languages`.\n'],
    [['--as', 'moon'], 'taxeon: There is no role "moon" in Oddmere Tool Library; there are '],
    [['--in', 'moon'], 'taxeon: There is no guild "moon"; there are '],
  ] as const) {
    const { status: wrong, err } = await folderOf(demo).taxeon('reference', ...args);
    expect([wrong, err.startsWith(expected)]).toEqual([2, true]);
  }
});

/** A bot whose words are made to break a page. */
const evil = '<img src=x onerror=alert(1)> | `a` [x](y) *b* # c & d';
const hostile = `import { arg, command, createCommandLayer } from 'taxeon';
import { standIn } from '@taxeon/testing';
const lamp = command({ name: 'lamp', description: ${JSON.stringify(evil)}, section: ${JSON.stringify(evil)}, args: { n: arg.text({ description: ${JSON.stringify(evil)}, optional: true }) }, run: () => 'lit' });
const world = { bot: { id: 'm', name: 'M' }, people: [], guilds: [{ id: 'g', name: ${JSON.stringify(evil)}, channels: ['c'], members: { m: [] } }] };
export default { open: (given) => ({ layer: createCommandLayer({ ...given, commands: [lamp], prefixes: ['!'] }), platform: standIn(world, given) }) };
`;

test('Markdown and the page show words as they stand', async () => {
  const folder = folderOf({ 'taxeon.config.mjs': hostile });
  const { out: markdown } = await folder.taxeon('reference');
  const html = new MarkdownIt({ html: true }).render(markdown);
  expect(html).not.toMatch(/<img|<a |<em>/);
  expect(html.match(/&lt;img src=x onerror=alert\(1\)&gt; \|/g)).toHaveLength(4);
  const { out: page } = await folder.taxeon('reference', '--format', 'html');
  expect(page).not.toMatch(/<img|https?:|src="/);
});

test.skipIf(isMissing('chromium'))(
  'the page finds commands by words, and asks for nothing',
  { timeout: 60_000 },
  async () => {
    const folder = folderOf(demo);
    const { out } = await folder.taxeon('reference', '--format', 'html');
    writeFileSync(join(folder.path, 'reference.html'), out);
    const browser = await launchChromium();
    try {
      const page = await browser.newPage();
      const asked: string[] = [];
      page.on('request', (request) => asked.push(request.url()));
      const url = pathToFileURL(join(folder.path, 'reference.html')).href;
      await page.goto(url);
      const shown = () => page.locator('article:visible h3').allTextContents();
      expect(await shown()).toContain('fine');
      await page.getByRole('searchbox').fill('late tool');
      expect(await shown()).toEqual(['fine', 'overdue list', 'overdue close']);
      expect(await page.locator('h2:visible').allTextContents()).toEqual(['For stewards']);
      await page.getByRole('searchbox').fill('');
      expect(await shown()).toContain('borrow');
      expect(asked).toEqual([url]);
    } finally {
      await browser.close();
    }
  },
);
