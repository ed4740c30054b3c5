/** The frame of every page. */
import { escaped } from './markdown.js';
import { navigation } from './repository.js';

/**
 * @param {{ title: string, html: string, page: string, sections?: readonly { heading: string, level: number, slug: string }[] }} content
 */
export function framed({ title, html, page, sections = [] }) {
  const here = sections.filter(({ level }) => level === 2);
  const contents =
    here.length < 2
      ? ''
      : `<nav class="contents" aria-label="On this page"><p>On this page</p><ul>${here
          .map(({ heading, slug }) => `<li><a href="#${escaped(slug)}">${escaped(heading)}</a></li>`)
          .join('')}</ul></nav>`;
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width, initial-scale=1">
<meta name="color-scheme" content="light dark">
<title>${escaped(title === 'Taxeon' ? 'Taxeon' : `${title} – Taxeon`)}</title>
<link rel="icon" type="image/svg+xml" href="/mark.svg">
<link rel="stylesheet" href="/page.css">
<script type="module" src="/page.js"></script>
</head>
<body>
<a class="skip" href="#content">To the text</a>
<header>
<a class="name" href="index.html"><img src="/mark.svg" alt="" width="26" height="26">Taxeon</a>
<search class="search">
<input type="search" aria-label="Search" placeholder="Search the guide and the reference" autocomplete="off" aria-controls="found">
<ol id="found" hidden></ol>
</search>
</header>
<div class="sheet">
<details class="pages" open><summary>All pages</summary><nav aria-label="Pages">${menu(page)}</nav></details>
<main id="content">${html}</main>
${contents}
</div>
</body>
</html>
`;
}

function menu(page) {
  return navigation()
    .map(({ heading, links }) => {
      const items = links.map(
        ([name, href]) =>
          `<li><a href="${href}"${href === page ? ' aria-current="page"' : ''}>${escaped(name)}</a></li>`,
      );
      return `<p>${heading}</p><ul>${items.join('')}</ul>`;
    })
    .join('');
}
