import { readFileSync } from 'node:fs';
import type { Outcome } from 'taxeon';
import { describe, expect, test } from 'vitest';
import { grammarCommands, grammarScene, readingOf, unhidden } from '../../../test/support/grammar.js';

const page = readFileSync(new URL('../../../docs/input-grammar.md', import.meta.url), 'utf8');

interface Example {
  readonly heading: string;
  readonly line: string;
  readonly reading: string;
}

/** Lines such as `!note oiled → note text="oiled"` in the page's blocks marked `reads`. */
function examplesIn(markdown: string): Example[] {
  const examples: Example[] = [];
  let heading = '';
  let inside = false;
  for (const row of markdown.split('\n')) {
    if (row.startsWith('#')) heading = row.replace(/^#+ /, '');
    if (row.startsWith('````')) inside = row === '````reads';
    else if (inside) {
      const [line = '', reading = ''] = row.split(/ +→ /);
      examples.push({ heading, line: unhidden(line), reading });
    }
  }
  return examples;
}

const examples = examplesIn(page);

test('the page has at least 80 examples, none twice', () => {
  expect(examples.length).toBeGreaterThanOrEqual(80);
  expect(new Set(examples.map(({ line }) => line)).size).toBe(examples.length);
});

test('the page shows how each of its commands is written', async () => {
  const { layer, platform } = grammarScene();
  for (const { declaration } of grammarCommands) {
    const wrong = platform.typed({ person: 'ines', place: 'oddmere', text: `!${declaration.name} --- " ` });
    const outcome = await layer.handle(wrong, platform);
    const usage = 'reply' in outcome ? outcome.reply?.notice.details?.[0] : undefined;
    if (usage !== undefined) expect(page).toContain(usage.replace('Usage: !', ''));
  }
});

describe('each example of docs/input-grammar.md reads as the page says', () => {
  for (const { heading, line, reading } of examples) {
    test(`${heading}: ${JSON.stringify(line)}`, async () => {
      const { layer, platform } = grammarScene();
      const place = heading.includes('direct message') ? 'direct' : 'oddmere/counter';
      const surface = heading.includes('console') ? ({ surface: 'console' } as const) : { person: 'ines' };
      let outcome: Outcome | undefined;
      let text = '';
      for (const [index, one] of line.split(' ✎ ').entries()) {
        const [typed = '', ...names] = one.split(' 📎 ');
        text = typed;
        const files = names.map((name) => ({
          name,
          type: name.endsWith('.png') ? 'image/png' : 'text/plain',
          content: '',
        }));
        const edits = index === 0 ? { id: 'line' } : { edits: 'line' };
        outcome = await layer.handle(platform.typed({ ...surface, ...edits, place, text, files }), platform);
      }
      expect(outcome === undefined ? '' : readingOf(outcome, text)).toBe(reading);
    });
  }
});
