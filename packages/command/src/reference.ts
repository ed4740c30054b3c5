/** `taxeon reference`: the bot's commands for its people. */
import { systemClock } from 'taxeon';
import { htmlMarkup } from 'taxeon/platform';
import { type Reference, type ReferenceCommand, referenceOf } from 'taxeon/queries';
import { guildPlaceOf } from './access.js';
import { UsageError } from './errors.js';
import { aboutPlace, printJson } from './json.js';
import { openBot } from './open.js';
import { print } from './print.js';

export interface ReferenceCommandOptions {
  readonly in?: string;
  readonly as?: string;
  readonly language?: string;
  readonly format: 'markdown' | 'html';
  readonly json: boolean;
  readonly config?: string;
}

export async function showReference(options: ReferenceCommandOptions): Promise<void> {
  const { layer, platform } = await openBot(options.config, systemClock);
  const place = guildPlaceOf(options.in, platform);
  const { as, language, format, json } = options;
  let reference: Reference;
  try {
    reference = await referenceOf(layer, place, platform, {
      ...(as === undefined ? {} : { as: platform.directory.guilds.get(place.guild.id)?.members.get(as) ?? as }),
      ...(language === undefined ? {} : { locale: language }),
    });
  } catch (error) {
    if (error instanceof TypeError) throw new UsageError(`${error.message}.`);
    throw error;
  }
  if (language !== undefined && !`${language}-`.toLowerCase().startsWith(`${reference.locale}-`.toLowerCase()))
    throw new UsageError(`The bot does not speak "${language}"; give it in \`languages\`.`);
  const { guild: _, ...described } = reference;
  if (json) printJson({ about: aboutPlace(place), ...described });
  else if (format === 'html') print(referencePage(reference));
  else print(markdown(reference));
}

function markdown({ title, guild, as, sections }: Reference): string {
  const lines = [`# ${markdownText(title)}: ${markdownText(guild)}${as === undefined ? '' : ` (${markdownText(as)})`}`];
  for (const { heading, commands } of sections) {
    if (heading !== undefined) lines.push('', `## ${markdownText(heading)}`);
    for (const command of commands) lines.push('', ...commandLines(command, heading === undefined ? '##' : '###'));
  }
  return lines.join('\n');
}

function commandLines({ name, description, usage, args, examples, notes }: ReferenceCommand, level: string): string[] {
  const rows = args.map(
    ({ written, description: what, takes }) => `| ${code(written)} | ${markdownText(what)} | ${markdownText(takes)} |`,
  );
  return [
    `${level} ${markdownText(name)}`,
    '',
    markdownText(description),
    '',
    code(usage),
    ...(rows.length === 0 ? [] : ['', '| | | |', '|---|---|---|', ...rows]),
    ...(examples.length === 0 ? [] : ['', examples.map(code).join(' · ')]),
    ...(notes.length === 0 ? [] : ['', ...notes.map((note) => `- ${markdownText(note)}`)]),
  ];
}

/** As it stands, whatever it holds. */
function markdownText(raw: string): string {
  return raw.replace(/\n/g, ' ').replace(/[\\`*_{}[\]<>#|~!&]/g, '\\$&');
}

/** In a table, too. */
function code(raw: string): string {
  const fence = raw.includes('`') ? '``' : '`';
  return `${fence}${raw.replace(/\n/g, ' ').replace(/\|/g, '\\|')}${fence}`;
}

// The commands as one page that can be sent to the bot's people: nothing is fetched, and a word finds a command.
function referencePage({ title, guild, as, locale, sections }: Reference): string {
  const whose = as === undefined ? guild : `${guild}, ${as}`;
  const body = sections
    .map(({ heading, commands }) => {
      const head = heading === undefined ? '' : `<h2>${htmlMarkup(heading)}</h2>\n`;
      return `<section>\n${head}${commands.map(article).join('\n')}\n</section>`;
    })
    .join('\n');
  return `<!doctype html>
<html lang="${htmlMarkup(locale)}">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${htmlMarkup(title)}: ${htmlMarkup(whose)}</title>
<style>${style}</style>
</head>
<body>
<header>
<h1>${htmlMarkup(title)}</h1>
<p>${htmlMarkup(whose)}</p>
<input type="search" aria-label="${htmlMarkup(title)}" placeholder="⌕" autocomplete="off">
</header>
<main>
${body}
</main>
<script>${script}</script>
</body>
</html>`;
}

function article({ name, description, usage, args, examples, notes }: ReferenceCommand): string {
  const rows = args
    .map(
      ({ written, description: what, takes }) =>
        `<tr><th scope="row"><code>${htmlMarkup(written)}</code></th><td>${htmlMarkup(what)}</td><td>${htmlMarkup(takes)}</td></tr>`,
    )
    .join('');
  return [
    `<article id="${htmlMarkup(name.replaceAll(' ', '-'))}">`,
    `<h3>${htmlMarkup(name)}</h3>`,
    `<p>${htmlMarkup(description)}</p>`,
    `<pre>${htmlMarkup(usage)}</pre>`,
    rows === '' ? '' : `<div class="sheet"><table><tbody>${rows}</tbody></table></div>`,
    examples.length === 0
      ? ''
      : `<p class="examples">${examples.map((one) => `<code>${htmlMarkup(one)}</code>`).join(' ')}</p>`,
    notes.length === 0 ? '' : `<ul>${notes.map((note) => `<li>${htmlMarkup(note)}</li>`).join('')}</ul>`,
    '</article>',
  ]
    .filter((line) => line !== '')
    .join('\n');
}

/** Shows the commands that have all of the words; a section goes with its last command. */
const script = `
const field = document.querySelector('input');
const folded = (text) => text.normalize('NFKD').replace(/\\p{M}/gu, '').toLowerCase();
field.addEventListener('input', () => {
  const words = folded(field.value).split(/\\s+/);
  for (const section of document.querySelectorAll('section')) {
    let shown = 0;
    for (const one of section.querySelectorAll('article')) {
      one.hidden = !words.every((word) => folded(one.textContent).includes(word));
      if (!one.hidden) shown += 1;
    }
    section.hidden = shown === 0;
  }
});
`;

const style = `
:root { color-scheme: light dark; --paper: #faf7f0; --ink: #2b2a26; --rule: #d8d1c0; --faint: #6b675c; --sheet: #f1ecdf; }
@media (prefers-color-scheme: dark) { :root { --paper: #23221f; --ink: #ece7da; --rule: #47443c; --faint: #aaa493; --sheet: #2d2b27; } }
body { margin: 2.5rem auto; max-width: 46rem; padding: 0 1.5rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.5 Georgia, 'Liberation Serif', serif; }
h1 { font-size: 1.6rem; font-weight: normal; margin: 0; }
header p { margin: .2rem 0 1rem; color: var(--faint); }
input { font: inherit; color: inherit; background: var(--sheet); border: 1px solid var(--rule); border-radius: .2rem;
  padding: .4rem .6rem; width: 100%; box-sizing: border-box; }
h2 { font-size: 1.1rem; font-weight: normal; margin: 2.2rem 0 0; padding-bottom: .3rem; border-bottom: 2px solid var(--ink); }
article { padding: 1.1rem 0; border-bottom: 1px solid var(--rule); }
h3 { margin: 0; font-size: 1.05rem; }
article p { margin: .2rem 0 .6rem; }
pre, code { font-family: 'Liberation Mono', monospace; font-size: .88rem; }
pre { margin: 0; padding: .5rem .7rem; background: var(--sheet); overflow-x: auto; }
.sheet { overflow-x: auto; }
table { border-collapse: collapse; margin-top: .6rem; font-size: .92rem; }
th, td { text-align: left; vertical-align: top; padding: .2rem 1.2rem .2rem 0; font-weight: normal; }
td:last-child { color: var(--faint); }
.examples { margin-top: .6rem; } .examples code { background: var(--sheet); padding: .1rem .35rem; margin-right: .3rem; }
ul { margin: .5rem 0 0; padding-left: 1.1rem; color: var(--faint); font-size: .88rem; }
[hidden] { display: none; }
@media print { input { display: none; } body { margin: 0; background: none; } }
`;
