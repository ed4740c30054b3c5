/** The reference, from the doc comments of the sources. */
import { relative } from 'node:path';
import { entriesOf, folderOf, packages } from '../../scripts/packages.js';
import { escaped, highlighted, slugOf } from './markdown.js';
import { memberText, signatureText, typeParametersText, typeText } from './types.js';

const FUNCTION = 64;
const CLASS = 128;
const INTERFACE = 256;
const TYPE = 2_097_152;
const VARIABLE = 32;
const REFERENCE = 4_194_304;
const kinds = {
  [FUNCTION]: 'function',
  [CLASS]: 'class',
  [INTERFACE]: 'interface',
  [TYPE]: 'type',
  [VARIABLE]: 'constant',
};
const order = [FUNCTION, VARIABLE, CLASS, INTERFACE, TYPE];
const headings = ['Functions', 'Constants', 'Classes', 'Interfaces', 'Types'];

/** How each entry is imported, by the name that the generator gives its source. */
const entries = new Map(
  packages
    .flatMap(entriesOf)
    .map(({ entry, file }) => [relative(folderOf('.'), file).replace(/(\/index)?\.ts$/, ''), entry]),
);

function importedAs(module) {
  return entries.get(module) ?? module;
}

/**
 * A page for each entry, and one that lists them.
 *
 * @param {{ children: readonly object[] }} data what the generator has written
 */
export function referencePages({ children }) {
  const listed = [...entries.keys()];
  const inOrder = children.toSorted((a, b) => listed.indexOf(a.name) - listed.indexOf(b.name));
  const modules = inOrder.map((module) => ({
    from: importedAs(module.name),
    page: `reference-${importedAs(module.name).replace('@', '').replaceAll('/', '-')}.html`,
    all: (module.children ?? []).filter(({ kind }) => kind !== REFERENCE),
  }));
  const places = new Map(
    modules.toReversed().flatMap(({ page, all }) => all.map(({ name }) => [name, `${page}#${slugOf(name)}`])),
  );
  const hrefOf = (name) => places.get(name);
  const pages = modules.map(({ from, page, all }) => {
    const groups = order.map((kind) =>
      all.filter((one) => one.kind === kind).sort((a, b) => (a.name < b.name ? -1 : 1)),
    );
    const sections = groups.flatMap((group, index) =>
      group.length === 0 ? [] : [{ heading: headings[index], level: 2, slug: slugOf(headings[index]), words: [] }],
    );
    const body = groups.map((group, index) =>
      group.length === 0
        ? ''
        : `<h2 id="${slugOf(headings[index])}">${headings[index]}</h2>${group.map((one) => entry(one, hrefOf)).join('')}`,
    );
    // Types are found by the search, and from what uses them.
    const names = groups
      .slice(0, 3)
      .flat()
      .map(({ name }) => `<li><a href="#${slugOf(name)}"><code>${escaped(name)}</code></a></li>`);
    const html = `<h1><code>${from}</code></h1><ul class="names">${names.join('')}</ul>${body.join('')}`;
    const found = all.map((one) => ({
      heading: one.name,
      slug: slugOf(one.name),
      words: [textOf(commentOf(one)?.summary)],
    }));
    return { page, title: from, html, sections, found };
  });
  const list = modules.map(({ from, page, all }) => {
    const called = all.filter(({ kind }) => kind === FUNCTION).map(({ name }) => name);
    return `<tr><th scope="row"><a href="${page}"><code>${from}</code></a></th><td>${called.map((name) => `<a href="${page}#${slugOf(name)}"><code>${escaped(name)}</code></a>`).join(' ')}</td></tr>`;
  });
  const html = `<h1>Reference</h1><p>Every public name of the library, by the entry that it is imported from, out of the comments in its sources. Here are the functions; each page has the types, too.</p><div class="table"><table><tbody>${list.join('')}</tbody></table></div>`;
  return [{ page: 'reference.html', title: 'Reference', html, sections: [], found: [] }, ...pages];
}

/** Those of whom nothing is said, and functions without an example. */
export function undocumented({ children }) {
  return children.flatMap(({ name: module, children: all = [] }) =>
    all.flatMap((one) => {
      if (one.kind === REFERENCE) return [];
      const comments = commentsOf(one);
      const from = importedAs(module);
      if (!comments.some(({ summary = [] }) => textOf(summary).trim() !== ''))
        return [`${from}: nothing is said of ${one.name}`];
      const hasExample = comments.some(({ blockTags = [] }) => blockTags.some(({ tag }) => tag === '@example'));
      return one.kind === FUNCTION && !hasExample ? [`${from}: ${one.name} has no example`] : [];
    }),
  );
}

function entry(one, hrefOf) {
  const comment = commentOf(one);
  return `<section class="entry"><h3 id="${slugOf(one.name)}">${escaped(one.name)} <span class="kind">${kinds[one.kind] ?? ''}</span></h3>
<pre tabindex="0"><code>${declaration(one, hrefOf)}</code></pre>
${prose(comment?.summary)}${parameters(one)}${tags(comment)}${members(one, hrefOf)}</section>`;
}

function declaration(one, hrefOf) {
  const { name, kind, type, signatures, typeParameters = [], children = [] } = one;
  const own = `${escaped(name)}${typeParametersText(typeParameters, hrefOf)}`;
  switch (kind) {
    case FUNCTION:
      return signatures.map((signature) => `function ${escaped(name)}${signatureText(signature, hrefOf)}`).join('\n');
    case TYPE:
      return `type ${own} = ${typeText(type, hrefOf)}`;
    case VARIABLE:
      return `const ${escaped(name)}: ${typeText(type, hrefOf)}`;
    default: {
      const lines = children
        .filter(({ flags }) => flags.isInherited !== true)
        .map((member) => `  ${memberText(member, hrefOf)};`);
      const above = one.extendedTypes?.map((each) => typeText(each, hrefOf)) ?? [];
      return `${kinds[kind]} ${own}${above.length === 0 ? '' : ` extends ${above.join(', ')}`} {\n${lines.join('\n')}\n}`;
    }
  }
}

function parameters({ signatures = [] }) {
  const told = signatures.flatMap(({ parameters: all = [] }) => all.filter(({ comment }) => comment !== undefined));
  if (told.length === 0) return '';
  return `<dl>${told.map(({ name, comment }) => `<dt><code>${escaped(name)}</code></dt><dd>${inline(comment.summary)}</dd>`).join('')}</dl>`;
}

function members({ children = [] }, hrefOf) {
  const told = children.filter((one) => one.flags.isInherited !== true && commentOf(one) !== undefined);
  if (told.length === 0) return '';
  const rows = told.map(
    (one) =>
      `<dt><code>${memberText({ ...one, flags: { ...one.flags, isReadonly: false } }, hrefOf)}</code></dt><dd>${inline(commentOf(one).summary)}${(
        commentOf(one).blockTags ?? []
      )
        .filter(({ tag }) => tag === '@throws' || tag === '@returns')
        .map(({ tag, content }) => ` ${words[tag]}: ${inline(content)}`)
        .join('')}</dd>`,
  );
  return `<dl>${rows.join('')}</dl>`;
}

const words = { '@throws': 'Throws', '@returns': 'Gives' };

function tags(comment) {
  return (comment?.blockTags ?? [])
    .map(({ tag, content }) => {
      if (tag === '@example')
        return content
          .map(
            ({ text }) =>
              `<figure class="code"><pre tabindex="0"><code>${highlighted(text.replace(/^```\w*\n|\n```$/g, ''))}</code></pre></figure>`,
          )
          .join('');
      return words[tag] === undefined ? '' : `<p><b>${words[tag]}</b> ${inline(content)}</p>`;
    })
    .join('');
}

function commentsOf({ comment, signatures = [], type, getSignature }) {
  const nested = type?.declaration?.signatures ?? [];
  return [comment, ...[...signatures, ...nested].map((one) => one.comment), getSignature?.comment].filter(
    (one) => one !== undefined,
  );
}

function commentOf(one) {
  return commentsOf(one)[0];
}

function textOf(parts = []) {
  return parts.map(({ text }) => text).join('');
}

function inline(parts = []) {
  return parts
    .map(({ kind, text }) =>
      kind === 'code' ? `<code>${escaped(text.replace(/^`+|`+$/g, ''))}</code>` : escaped(text),
    )
    .join('');
}

function prose(parts) {
  return parts === undefined || parts.length === 0 ? '' : `<p>${inline(parts)}</p>`;
}
