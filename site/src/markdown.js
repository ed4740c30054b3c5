/** Markdown of the repository as HTML of the site. */
import { dirname, join } from 'node:path/posix';
import hljs from 'highlight.js/lib/core';
import bash from 'highlight.js/lib/languages/bash';
import json from 'highlight.js/lib/languages/json';
import typescript from 'highlight.js/lib/languages/typescript';
import yaml from 'highlight.js/lib/languages/yaml';
import MarkdownIt from 'markdown-it';
import { pageOf } from './repository.js';

const languages = { bash, json, typescript, yaml };
for (const [name, language] of Object.entries(languages)) hljs.registerLanguage(name, language);
const called = { js: 'typescript', ts: 'typescript', sh: 'bash', yaml: 'yaml', json: 'json' };

/** @param {string} code */
export function highlighted(code, name = 'ts') {
  const language = called[name];
  return language === undefined ? escaped(code) : hljs.highlight(code, { language }).value;
}

/** @param {string} text */
export function escaped(text) {
  return text.replace(/[&<>"]/g, (sign) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[sign]);
}

/** As the pages of the repository link to their headings. */
export function slugOf(heading) {
  return heading
    .toLowerCase()
    .replace(/[^\p{L}\p{N}\s_-]/gu, '')
    .replaceAll(' ', '-');
}

/**
 * @param {string} text
 * @param {string} path of the page in the repository, from which its links go
 * @returns its HTML, its title, and its sections with their words, for the search
 */
export function rendered(text, path) {
  const markdown = new MarkdownIt({ html: false, linkify: false });
  const sections = [];
  const { rules } = markdown.renderer;
  rules.fence = (tokens, index) => {
    const [language = '', file] = tokens[index].info.split(' ');
    const name = file === undefined ? '' : `<figcaption>${escaped(file)}</figcaption>`;
    return `<figure class="code">${name}<pre tabindex="0"><code>${highlighted(tokens[index].content, language)}</code></pre></figure>\n`;
  };
  rules.table_open = () => '<div class="table" tabindex="0"><table>\n';
  rules.table_close = () => '</table></div>\n';
  rules.heading_open = (tokens, index) => {
    const heading = plain(tokens[index + 1]);
    const level = Number(tokens[index].tag.slice(1));
    sections.push({ heading, level, slug: slugOf(heading), words: [] });
    return `<${tokens[index].tag} id="${escaped(slugOf(heading))}">`;
  };
  rules.image = (tokens, index) => {
    const source = tokens[index].attrGet('src') ?? '';
    return `<img src="${escaped(source.replace(/^docs\/(?=screenshots\/|mark\.svg)/, ''))}" alt="${escaped(tokens[index].content)}" loading="lazy">`;
  };
  rules.link_open = (tokens, index, options, _, self) => {
    const link = tokens[index].attrGet('href') ?? '';
    const target = targetOf(link, path);
    // A file of the repository is named, and not linked.
    tokens[index].tag = target === undefined ? 'span' : 'a';
    const close = tokens.slice(index).find(({ type, level }) => type === 'link_close' && level === tokens[index].level);
    if (close !== undefined) close.tag = tokens[index].tag;
    tokens[index].attrs =
      target === undefined
        ? [
            ['class', 'file'],
            ['title', fileOf(link, path)],
          ]
        : [['href', target]];
    return self.renderToken(tokens, index, options);
  };
  const html = markdown.render(text);
  for (const token of markdown.parse(text, {})) {
    if (token.type === 'heading_open') sections.push(sections.shift());
    else if (token.type === 'inline' || token.type === 'fence')
      sections.at(-1)?.words.push(token.type === 'inline' ? plain(token) : token.content);
  }
  return { html, title: sections[0]?.heading ?? path, sections };
}

function plain({ children, content }) {
  return children === null
    ? content
    : children
        .filter(({ content: one }) => one !== '')
        .map(({ content: one }) => one)
        .join('');
}

function fileOf(link, path) {
  return join(dirname(path), link.split('#')[0]);
}

function targetOf(link, path) {
  if (/^(https?:|#)/.test(link)) return link;
  const [, anchor] = link.split('#');
  const page = pageOf(fileOf(link, path));
  return page === undefined ? undefined : `${page}${anchor === undefined ? '' : `#${anchor}`}`;
}
