import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { dirname, join, normalize } from 'node:path';
import { expect, test } from 'vitest';
import { pages, root } from './blocks.js';

const withoutCode = (text: string) =>
  text.replace(/^```[\s\S]*?^```/gm, '').replace(/`[^`\n]*`/g, (code) => code.replace(/[[\]()]/g, ' '));

/** As pages are shown: small letters, words joined by hyphens, no signs. */
function anchorsOf(path: string): readonly string[] {
  const headings = withoutCode(readFileSync(join(root, path), 'utf8')).matchAll(/^#+ (.*)$/gm);
  return Array.from(headings, ([, heading = '']) =>
    heading
      .toLowerCase()
      .replace(/[^\p{L}\p{N}\s_-]/gu, '')
      .replaceAll(' ', '-'),
  );
}

test.each(pages())('every link of %s leads somewhere', (path) => {
  const text = withoutCode(readFileSync(join(root, path), 'utf8'));
  const broken = [...text.matchAll(/\]\(([^)\s]+)\)/g)].flatMap(([, link = '']) => {
    if (/^https?:/.test(link)) return [];
    const [file = '', anchor] = link.split('#');
    const target = file === '' ? path : normalize(join(dirname(path), file));
    if (!existsSync(join(root, target))) return [link];
    return anchor === undefined || !target.endsWith('.md') || anchorsOf(target).includes(anchor) ? [] : [link];
  });
  expect(broken).toEqual([]);
});

test('every picture is shown on some page', () => {
  const text = pages()
    .map((path) => readFileSync(join(root, path), 'utf8'))
    .join('\n');
  const pictures = readdirSync(join(root, 'docs/screenshots'));
  expect(pictures.filter((name) => !text.includes(`screenshots/${name})`))).toEqual([]);
});
