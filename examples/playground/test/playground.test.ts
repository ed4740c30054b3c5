/** The built page in a real browser, opened as a file: no server, no network. */
import { readFileSync, statSync } from 'node:fs';
import { createRequire } from 'node:module';
import { gzipSync } from 'node:zlib';
import type { Browser, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll, describe, expect, test } from 'vitest';
import { launchChromium } from '../../../test/support/chromium.js';
import { isMissing } from '../../../test/support/programs.js';

const dist = new URL('../dist/', import.meta.url);
const address = new URL('index.html', dist).href;
const axe = readFileSync(createRequire(import.meta.url).resolve('axe-core/axe.min.js'), 'utf8');

test('the built JavaScript weighs less than 290 kB gzipped', () => {
  expect(statSync(new URL('playground.js', dist)).size).toBeGreaterThan(100_000);
  expect(gzipSync(readFileSync(new URL('playground.js', dist))).length).toBeLessThan(290_000);
});

describe.skipIf(isMissing('chromium'))('the playground', () => {
  let browser: Browser;
  let page: Page;
  const errors: string[] = [];

  beforeAll(async () => {
    browser = await launchChromium();
  });
  afterAll(() => browser?.close());
  afterEach(async () => {
    expect(errors.splice(0)).toEqual([]);
    await page.close();
  });

  async function open(
    options: { readonly width?: number; readonly hash?: string; readonly dark?: boolean } = {},
  ): Promise<void> {
    page = await browser.newPage({
      viewport: { width: options.width ?? 1280, height: 800 },
      colorScheme: options.dark === true ? 'dark' : 'light',
    });
    page.setDefaultTimeout(8000);
    page.on('console', (message) => {
      if (message.type() === 'error') errors.push(message.text());
    });
    page.on('pageerror', (error) => errors.push(String(error)));
    await page.goto(address + (options.hash ?? ''));
    await line().waitFor();
  }

  const line = () => page.getByRole('combobox', { name: 'Line', exact: true });
  const tab = (name: string) => page.getByRole('tab', { name, exact: true }).click();
  const press = (name: string | RegExp) =>
    page
      .getByRole('button', { name, exact: typeof name === 'string' })
      .first()
      .click();
  const speak = (name: string) => page.locator('.whereabouts').getByText(name, { exact: true }).click();
  const ledger = () => page.getByRole('list', { name: 'Conversation' });
  const panel = () => page.getByRole('tabpanel');

  async function say(text: string): Promise<void> {
    await line().fill(text);
    await line().press('Escape');
    await line().press('Enter');
    await ledger().getByText(text.slice(0, 60), { exact: false }).last().waitFor();
  }

  async function serious(): Promise<unknown[]> {
    await page.addScriptTag({ content: axe });
    const { violations } = (await page.evaluate('axe.run()')) as {
      violations: { id: string; impact: string; nodes: { html: string }[] }[];
    };
    return violations
      .filter(({ impact }) => impact === 'serious' || impact === 'critical')
      .map(({ id, nodes }) => [id, nodes[0]?.html.slice(0, 200)]);
  }

  test('shows a refused call with the stage that stopped it and its reason', async () => {
    await open();
    await speak('Pim');
    await say('!fine wren 50');
    await ledger().getByText('You need the permission fine for that.').waitFor();
    await panel().getByText('permission.caller: You need the permission fine for that.').waitFor();
    expect(await panel().locator('.stages li').count()).toBe(11);
    expect(await panel().locator('.stages .stopped b').innerText()).toBe('access');
    expect(await panel().locator('pre').innerText()).toContain('"code": "permission.caller"');
  });

  test('shows what took each word, and the typed arguments', async () => {
    await open();
    await say('!certify wren lathe 90d for the lathe');
    expect(await panel().locator('.token small').allInnerTexts()).toEqual(['certify', 'who', 'skill', 'valid', 'note']);
    const read = panel().locator('.stages li', { has: page.locator('b', { hasText: 'read' }) });
    expect(await read.innerText()).toContain('who = Wren, skill = lathe, valid = 90 days, note = "for the lathe"');
    expect(await panel().locator('pre').innerText()).toContain('"valid": 7776000000');
  });

  test('completes while one types, and says what would happen', async () => {
    await open();
    await line().pressSequentially('!bor');
    await page.getByRole('option', { name: /^borrow/ }).waitFor();
    await line().press('ArrowDown');
    await line().press('Enter');
    expect(await line().inputValue()).toBe('!borrow ');
    await line().pressSequentially('hed');
    await page.getByRole('option', { name: /^hedge trimmer/ }).click();
    expect((await line().inputValue()).trim()).toBe('!borrow hedge trimmer');
    await page.getByText('borrow would run.').waitFor();
  });

  test('a keystroke is one call of each into the core', async () => {
    await open();
    const calls = () =>
      page.evaluate("['complete', 'explain'].map((name) => performance.getEntriesByName(name).length)") as Promise<
        number[]
      >;
    await line().pressSequentially('!borrow dr');
    await page.getByRole('option', { name: /^drill/ }).waitFor();
    await page.waitForTimeout(600);
    expect(await calls()).toEqual([10, 10]);
  });

  test('lets a cooldown pass on the virtual clock', async () => {
    await open();
    await speak('Tobias');
    await page.getByText('Still').click();
    await say('!borrow drill');
    await say('!borrow ladder');
    await say('!borrow clamps');
    await ledger().getByText('Not yet. This works again in 10 minutes.').waitFor();
    await tab('Limits');
    await panel()
      .getByRole('img', { name: /Tobias: borrow, 2 granted, 1 refused/ })
      .waitFor();
    await panel()
      .getByRole('row', { name: /borrow\/user tobias 2 10 minutes/ })
      .waitFor();
    expect(await panel().locator('canvas').count()).toBe(1);
    await press('+10 min');
    await panel().getByText('everything may be used again').waitFor();
    await say('!take clamps');
    await ledger().getByText('The clamps is yours, Tobias.', { exact: false }).waitFor();
  });

  test('a private reply is shown to its person alone, and an expiring one goes', async () => {
    await open();
    await page.getByText('Slash', { exact: true }).click();
    await page.getByRole('combobox', { name: 'tool', exact: true }).fill('anvil');
    await press('Invoke');
    await ledger().getByText('for Ines alone').waitFor();
    await speak('Wren');
    await expect.poll(() => ledger().getByText('for Ines alone').count()).toBe(0);
    await page.getByText('Text', { exact: true }).click();
    await say('!borow drill');
    await ledger().getByText('Did you mean borrow?', { exact: false }).waitFor();
    await press('+1 min');
    await expect.poll(() => ledger().getByText('Did you mean borrow?', { exact: false }).count()).toBe(0);
  });

  test('a question shows how long it waits, and its answer is a line or a form', async () => {
    await open();
    await speak('Ines');
    await say('!overdue remind');
    await ledger().getByText('I still need “who”').waitFor();
    await ledger()
      .getByText(/^waits \d+ s/)
      .waitFor();
    await say('tobin');
    await ledger().getByText('“tobin” is not that.').waitFor();
    await say('stop');
    await ledger().getByText('All right, nothing was done.').waitFor();
    expect(
      await ledger()
        .getByText(/^waits/)
        .count(),
    ).toBe(0);
    await page.getByText('Slash', { exact: true }).click();
    await page.getByRole('combobox', { name: 'Command' }).selectOption('overdue close');
    await press('Invoke');
    await page.getByLabel(/^Which tool/).fill('jigsaw');
    await press('Answer');
    await page.locator('.asked').getByText('Is the jigsaw really back on the shelf?').waitFor();
    expect(await serious()).toEqual([]);
    await press('No');
    await ledger().getByText('All right, nothing was done.').last().waitFor();
    expect(await page.locator('.asked').count()).toBe(0);
  });

  test('a held reply shows its progress as time passes', async () => {
    await open();
    await page.getByText('Still').click();
    await page.getByText('Slash', { exact: true }).click();
    await page.locator('.composer select').selectOption('stocktake');
    await press('Invoke');
    await panel().getByText('is running. Let time pass', { exact: false }).waitFor();
    await press('+10 s');
    await ledger().getByText('Counted shelf', { exact: false }).waitFor();
    for (let step = 0; step < 12; step++) await press('+10 s');
    await ledger().getByText('Not there, and not lent: clamps.', { exact: false }).waitFor();
  });

  test('cells of the access table change with roles and settings', async () => {
    await open();
    await speak('Pim');
    await tab('Access');
    await panel().getByRole('button', { name: 'borrow, Pim: refused, needs the permission borrow' }).click();
    await panel().getByText('borrow, Pim: refused, needs the permission borrow', { exact: true }).waitFor();
    await panel().locator('.react-aria-Checkbox', { hasText: 'borrower' }).click();
    await panel().getByRole('button', { name: 'borrow, Pim: allowed', exact: true }).waitFor();
    await press('on: switch borrow off');
    await panel().getByRole('button', { name: 'borrow, Pim: off, switched off' }).waitFor();
    await say('!borrow drill');
    await ledger().getByText('“borrow” is switched off here.').waitFor();
  });

  test('registers, and shows what comes slowly everywhere', async () => {
    await open();
    await tab('Registration');
    await panel().getByRole('heading', { name: 'The platform differs in 20' }).waitFor();
    await press('Register for staging');
    await panel().getByRole('heading', { name: 'The platform differs in 19' }).waitFor();
    await press('Register everywhere');
    for (let step = 0; step < 8; step++) {
      await press('+10 s');
      await page.waitForTimeout(120);
    }
    await panel().getByRole('heading', { name: 'The platform holds what is declared' }).waitFor();
    expect(await panel().getByText('arrives in', { exact: false }).count()).toBe(17);
    await panel().getByLabel('Description of borrow').fill('Take a tool home');
    await press('Change');
    await panel().getByRole('row', { name: 'description "Borrow a tool" "Take a tool home"' }).waitFor();
    for (let step = 0; step < 5; step++) await press('+10 min');
    await expect.poll(() => panel().getByText('arrives in', { exact: false }).count()).toBe(0);
  });

  test('records a conversation as a tryout, and plays it again step by step', async () => {
    await open();
    await say('!borrow drill');
    await press('+1 min');
    await say('!borow ladder');
    await tab('Share');
    await press('Show the tryout');
    const box = panel().getByRole('textbox');
    const tryout = JSON.parse(await box.inputValue());
    expect(tryout.lines.filter((line: object) => 'types' in line)).toEqual([
      { person: 'ines', place: 'oddmere/counter', types: '!borrow drill', expect: { status: 'completed' } },
      {
        person: 'ines',
        place: 'oddmere/counter',
        types: '!borow ladder',
        expect: { status: 'refused', code: 'command.unknown' },
      },
    ]);
    await press('Begin anew with it');
    await ledger().getByText('Nothing was said here yet.', { exact: false }).waitFor();
    while (await panel().getByRole('button', { name: 'Next step' }).isVisible()) {
      await press('Next step');
      await page.waitForTimeout(80);
    }
    await ledger().getByText('The drill is yours, Ines.', { exact: false }).waitFor();
    await ledger().getByText('Did you mean borrow?', { exact: false }).waitFor();
  });

  test('loads the demo’s tryout in YAML, and plays all of it', async () => {
    await open();
    await tab('Share');
    await panel()
      .getByRole('textbox')
      .fill(readFileSync(new URL('../../tool-library/data/afternoon.tryout.yaml', import.meta.url), 'utf8'));
    await press('Begin anew with it');
    await press('Play all');
    await ledger().getByText('You need the permission borrow for that.').first().waitFor({ timeout: 20_000 });
  });

  test('a link holds the state, and brings it back', async () => {
    await open();
    await say('!shelf');
    await tab('Share');
    await press('Make a link');
    await panel().getByText('The address of this page holds it now.').waitFor();
    const { hash } = new URL(page.url());
    await page.close();
    await open({ hash });
    await ledger().getByText('On the shelf').waitFor();
  });

  const broken: [string, string][] = [
    ['a broken link', '#play=nonsense!'],
    ['a link to something else', `#play=${btoa('{"a":1}')}`],
  ];
  test.each(broken)('%s is told in place, and the page stays alive', async (_, hash) => {
    await open({ hash });
    expect(await page.getByRole('alert').innerText()).toContain('Nothing was loaded.');
    await say('!shelf');
    await ledger().getByText('On the shelf').waitFor();
  });

  test('a broken tryout, markup everywhere, and a pasted megabyte leave it alive, with nothing lost', async () => {
    await open();
    await say('!borrow <img src=x onerror=alert(1)>');
    await ledger().getByText('<img src=x onerror=alert(1)>', { exact: false }).first().waitFor();
    expect(await page.locator('img').count()).toBe(0);
    await line().fill(`!announce ${'x'.repeat(1_000_000)}`);
    await line().press('Escape');
    await line().press('Enter');
    await ledger().getByText('(1,000,010 characters)', { exact: false }).waitFor();
    await tab('Share');
    for (const text of ['lines: [', 'tryout: 1', '{"playground":1,"steps":[{}]}', '<b>no</b>']) {
      await panel().getByRole('textbox').fill(text);
      await press('Begin anew with it');
      await panel().getByRole('alert').waitFor();
    }
    await speak('Wren');
    await say('!shelf');
    await ledger().getByText('On the shelf').waitFor();
  });

  test('works by keyboard alone', async () => {
    await open();
    const focused = () =>
      page.evaluate(
        'document.activeElement?.getAttribute("aria-label") ?? document.activeElement?.textContent ?? ""',
      ) as Promise<string>;
    await line().focus();
    await page.keyboard.type('!shelf');
    await page.keyboard.press('Escape');
    await page.keyboard.press('Enter');
    await ledger().getByText('On the shelf').waitFor();
    for (let step = 0; step < 4 && !(await focused()).startsWith('Trace'); step++) await page.keyboard.press('Tab');
    await page.keyboard.press('ArrowRight');
    await panel().getByText('Roles of Ines').waitFor();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('ArrowRight');
    await panel().getByRole('heading', { name: 'The platform differs in 20' }).waitFor();
    await page.keyboard.press('Tab');
    await page.keyboard.press('Enter');
    await panel().getByRole('heading', { name: 'The platform differs in 19' }).waitFor();
  });

  test.each([
    ['light', false],
    ['dark', true],
  ] as const)('has no serious problem of access in any panel, %s', async (_, dark) => {
    await open({ dark });
    await speak('Tobias');
    for (const text of ['!borrow drill', '!borrow ladder', '!borrow clamps']) await say(text);
    for (const name of ['Trace', 'Access', 'Limits', 'Registration', 'Share']) {
      await tab(name);
      await page.waitForTimeout(150);
      expect([name, await serious()]).toEqual([name, []]);
    }
  });

  test('fits a phone’s width', async () => {
    await open({ width: 390 });
    await say('!help');
    for (const name of ['Trace', 'Access', 'Limits', 'Registration', 'Share']) {
      await tab(name);
      expect([name, await page.evaluate('document.documentElement.scrollWidth')]).toEqual([name, 390]);
    }
    expect(await serious()).toEqual([]);
  });
});
