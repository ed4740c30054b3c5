import { readFileSync } from 'node:fs';
import type { Outcome } from 'taxeon';
import { describe, expect, test } from 'vitest';
import { grammarScene, readingOf, unhidden } from '../../../test/support/grammar.js';

const page = readFileSync(new URL('../../../docs/as-people-type.md', import.meta.url), 'utf8');
/** Under a heading that names one, the caller's client tells the locale. */
const rows = page.split('\n## ').flatMap((section) => {
  const [, locale] = /^.*\(`(.+)`\)/.exec(section) ?? [];
  return [...section.matchAll(/^\| `(.+?)` \| (.+?) \| (.+?) \|$/gm)].map(
    ([, typed = '', , answer = '']) => [typed, answer, locale] as const,
  );
});

/** What is read, or what the person is told. */
function answerOf(outcome: Outcome, line: string): string {
  if (outcome.status === 'completed') {
    const notes = outcome.reply?.notice.details?.map((note) => `<br>${note}`) ?? [];
    return `\`${readingOf(outcome, line)}\`${notes.join('')}`;
  }
  const body = 'reply' in outcome ? outcome.reply?.notice.body : undefined;
  return body === undefined ? 'nothing' : body.replaceAll('\n', '<br>');
}

describe('each line of docs/as-people-type.md is answered as the page says', () => {
  test.each(rows)('%s', async (typed, expected, locale) => {
    const { layer, platform } = grammarScene();
    const text = unhidden(typed);
    const doing = { person: 'ines', place: 'oddmere', text, ...(locale === undefined ? {} : { locale }) };
    const outcome = await layer.handle(platform.typed(doing), platform);
    expect(answerOf(outcome, text)).toBe(expected);
  });

  test('and there are at least 120 of them', () => {
    expect(new Set(rows.map(([typed]) => typed)).size).toBeGreaterThanOrEqual(150);
  });
});
