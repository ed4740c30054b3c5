/** The pages of the repository: where each stands in the site, in the order of the guide. */
import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

export const root = new URL('../../', import.meta.url);

/** @param {string} path from the root of the repository on */
export function read(path) {
  return readFileSync(new URL(path, root), 'utf8');
}

/** Which page of the site a page of the repository is; nothing for what is no page. */
export function pageOf(path) {
  if (path === 'README.md') return 'index.html';
  if (path === 'docs/README.md') return 'guide.html';
  if (path === 'packages/taxeon/CHANGELOG.md') return 'changes.html';
  const [, name] = /^docs\/(.*)\.md$/.exec(path) ?? [];
  return name === undefined ? undefined : `${name.replace('/', '-')}.html`;
}

/** All of them. */
export function pages() {
  const docs = readdirSync(fileURLToPath(new URL('docs', root)), { recursive: true, encoding: 'utf8' });
  const guide = docs.filter((name) => name.endsWith('.md')).map((name) => `docs/${name}`);
  return ['README.md', ...guide.sort(), 'packages/taxeon/CHANGELOG.md'];
}

/** What the navigation shows: the guide as its page lists it, and what stands beside it. */
export function navigation() {
  const links = [...read('docs/README.md').matchAll(/^\| \[([^\]]+)\]\(([^)]+)\)/gm)];
  return [
    { heading: 'Guide', links: links.map(([, name, file]) => [name, pageOf(`docs/${file}`)]) },
    {
      heading: 'Beside it',
      links: [
        ['Recipes', 'recipes.html'],
        ['The taxeon command', 'command.html'],
        ['Tryouts', 'tryouts.html'],
        ['The console', 'console.html'],
        ['On IRC', 'irc.html'],
        ['How a line is read', 'input-grammar.html'],
      ],
    },
    {
      heading: 'Look it up',
      links: [
        ['Reference', 'reference.html'],
        ['Changes', 'changes.html'],
        ['Playground', 'playground/index.html'],
      ],
    },
  ];
}
