import { readFileSync, writeFileSync } from 'node:fs';
import type { Outcome } from 'taxeon';
import { afterAll, describe, expect, test } from 'vitest';
import { grammarScene, readingOf, unhidden } from '../../../test/support/grammar.js';

const file = new URL('../../../docs/as-people-type.md', import.meta.url);
const page = readFileSync(file, 'utf8');
/** Under a heading that names one, the caller's client tells the locale. */
const rows = page.split('\n## ').flatMap((section) => {
  const [, locale] = /^.*\(`(.+)`\)/.exec(section) ?? [];
  return [...section.matchAll(/^\| `(.+?)` \| (.+?) \| (.+?) \|$/gm)].map(
    ([row, typed = '', wanted = '', answer = '']) => {
      return { row, typed, wanted, answer, locale };
    },
  );
});

/** What is read, or what the person is told. */
function answerOf(outcome: Outcome, line: string): string {
  if (outcome.status === 'completed') {
    const notes = outcome.reply?.notice.details?.map((note) => `<br>${note}`) ?? [];
    return `\`${readingOf(outcome, line, 'Europe/London')}\`${notes.join('')}`;
  }
  const body = 'reply' in outcome ? outcome.reply?.notice.body : undefined;
  return body === undefined ? 'nothing' : body.replaceAll('\n', '<br>');
}

async function answered({ typed, locale }: (typeof rows)[number]): Promise<string> {
  const { layer, platform } = grammarScene();
  const text = unhidden(typed);
  const doing = { person: 'ines', place: 'oddmere', text, ...(locale === undefined ? {} : { locale }) };
  return answerOf(await layer.handle(platform.typed(doing), platform), text);
}

const isWritten = process.env['TYPED'] === 'write';
let written = page;
afterAll(() => {
  if (isWritten) writeFileSync(file, written);
});

describe('each line of docs/as-people-type.md', () => {
  test.each(rows)('$typed', async ({ row, typed, wanted, answer, locale }) => {
    const given = await answered({ row, typed, wanted, answer, locale });
    written = written.replace(row, () => `| \`${typed}\` | ${wanted} | ${given} |`);
    if (!isWritten) expect(given).toBe(answer);
    // What is read otherwise than a person would is never read without a word.
    const [reading = '', ...notes] = given.split('<br>');
    if (!reading.startsWith('`')) return;
    expect(reading).toBe(wanted.replace(', said back', ''));
    expect(notes.length > 0).toBe(wanted.endsWith('said back'));
  });

  test('there are 250 of them, and at most one of twenty is refused without a word of what to write', () => {
    expect(new Set(rows.map(({ typed }) => typed)).size).toBeGreaterThanOrEqual(250);
    const unhelpful = rows.filter(({ answer }) => !answer.startsWith('`') && !isHelpful(answer));
    expect(unhelpful.length).toBeLessThanOrEqual(rows.length / 20);
  });
});

/** It names a form, a value or a command that could be written, or leaves alone what is no call. */
function isHelpful(answer: string): boolean {
  const told = /such as|as in|Did you mean|could be|one of|from .+ to|“[^”]*help”|is written|stands twice|yes or no/;
  const form = /takes a (whole )?number|takes one emoji|that begins with|by mention or name/;
  return answer === 'nothing' || told.test(answer) || form.test(answer);
}
