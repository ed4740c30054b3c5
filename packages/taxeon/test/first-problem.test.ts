/** Of several wrong words in a line, the reply tells the first, and what could therefore not be placed. */
import { describe, expect, test } from 'vitest';
import { oddmere } from '../../../test/support/oddmere.js';

describe('a reply to several problems', () => {
  const aDate = 'takes a date and time such as 2026-05-10 17:00';
  const rows: [string, string, readonly string[]][] = [
    [
      'tells the first, and what could not be placed',
      '!reserve ladder tomorrow someday friday at 9',
      [`“to” ${aDate}; “someday” is not that. So I could not place “friday at 9”.`],
    ],
    [
      'also where something is left over',
      '!fine tobias many for the drill',
      ['“pence” takes a whole number from 1 to 500; “many” is not that. So I could not place “for the drill”.'],
    ],
    [
      'tells all where none follows from another',
      '!fine zed many',
      [
        '“who” takes a person here, by mention or name; “zed” is not that.',
        '“pence” takes a whole number from 1 to 500; “many” is not that.',
      ],
    ],
    [
      'tells what is missing where nothing could not be placed',
      '!reserve spade monday --tentativ',
      [
        '“to” is missing: a date and time such as 2026-05-10 17:00.',
        'There is no “--tentativ” in this command. Did you mean --tentative?',
      ],
    ],
  ];
  test.each(rows)('%s', async (_, line, told) => {
    const { outcome } = await (await oddmere()).types('ines', line);
    const { problems, reply } = outcome as { problems: readonly unknown[]; reply: { notice: { body: string } } };
    expect(reply.notice.body.split('\n')).toEqual(told);
    expect(problems.length).toBeGreaterThanOrEqual(told.length);
  });

  test('keeps all of them in the outcome', async () => {
    const { outcome } = await (await oddmere()).types('ines', '!reserve ladder tomorrow someday friday at 9');
    const { problems } = outcome as { problems: readonly { parameters: { read: string } }[] };
    expect(problems.map(({ parameters }) => parameters.read)).toEqual(['someday', 'friday', 'at', '9']);
  });

  test('tells each of a slash command’s, whose options are placed already', async () => {
    const options = { who: 'zed', pence: 'many', tool: 'wrench' };
    const { outcome } = await (await oddmere()).invokes('ines', 'fine', options);
    expect((outcome as { reply: { notice: { body: string } } }).reply.notice.body.split('\n')).toHaveLength(3);
  });
});
