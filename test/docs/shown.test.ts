/** What a page shows as said or printed is what is said and printed. */

import { arg, command } from 'taxeon';
import { expect, test } from 'vitest';
import { lastPost, said, scene } from '../support/asking.js';
import { botOn, lamp, taxeon } from '../support/modules.js';
import { blocksOf } from './blocks.js';

/** The blocks of a page that are of no language. */
function shownOn(page: string): readonly string[] {
  return blocksOf(page)
    .filter(({ language }) => language === '')
    .map(({ code }) => code);
}

test('modules that are wrong', async () => {
  const bot = botOn({
    'lending/borrow.ts': `import { command } from ${taxeon};\nexport default command({\n  name: 'borrow'\n  description: 'Take a tool home',\n});`,
    'lending/return.ts': 'export const tools = [];',
    'lending/take.ts': lamp('borrow', 'x'),
    'stewarding/fine.ts': lamp('borrow', 'x'),
  });
  expect(shownOn('docs/modules.md')).toContain((await bot.tell('load')).error);
});

test('a question, a wrong answer and a right one', async () => {
  const fine = command({
    name: 'fine',
    description: 'Charge a member',
    whenMissing: 'ask',
    args: {
      who: arg.member({ description: 'Who pays' }),
      pence: arg.integer({ description: 'How much', min: 1, max: 500 }),
    },
    run: ({ args }) => `${args.who.name} pays ${args.pence}p.`,
  });
  const bot = await scene([fine]);
  const [shown = ''] = shownOn('docs/asking.md');
  const lines = shown.split(/\n(?=\S)/).map((line) => line.slice(9).replace(/\n {9}/g, '\n'));
  for (let turn = 0; turn < lines.length; turn += 2) {
    const exchange = await bot.types('ines', lines[turn] as string);
    expect(said(exchange) || lastPost(bot)).toBe(lines[turn + 1]);
    bot.clock.advance(8000);
  }
});
