/** The access table as one page that can be sent to a guild's administrators: no script, nothing fetched. */

import type { AccessCell, AccessTable } from 'taxeon';
import { htmlMarkup } from 'taxeon';

const signs: Readonly<Record<AccessCell['verdict'], string>> = { allowed: '✓', depends: '~', refused: '✗', off: '–' };

export function accessPage({ guild, columns, rows }: AccessTable): string {
  const head = columns.map((name) => `<th scope="col">${htmlMarkup(name)}</th>`).join('');
  const body = rows
    .map(({ command, cells }) => `<tr><th scope="row">${htmlMarkup(command)}</th>${cells.map(cellHtml).join('')}</tr>`)
    .join('\n');
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Who may do what: ${htmlMarkup(guild)}</title>
<style>${style}</style>
</head>
<body>
<h1>Who may do what</h1>
<p class="guild">${htmlMarkup(guild)}</p>
<div class="sheet"><table>
<thead><tr><th scope="col">Command</th>${head}</tr></thead>
<tbody>
${body}
</tbody>
</table></div>
<ul class="key">
<li><b class="allowed">${signs.allowed} allowed</b></li>
<li><b class="depends">${signs.depends} depends</b> on whom it is done to, or on a condition that is looked at when it is used</li>
<li><b class="refused">${signs.refused} refused</b></li>
<li><b class="off">${signs.off} off</b> in this guild</li>
</ul>
</body>
</html>`;
}

function cellHtml({ verdict, because }: AccessCell): string {
  const reason =
    because === '' ? '' : `<small>${htmlMarkup(verdict === 'depends' ? `if ${because}` : because)}</small>`;
  return `<td><b class="${verdict}">${signs[verdict]} ${verdict}</b>${reason}</td>`;
}

const style = `
:root { color-scheme: light dark; --paper: #faf7f0; --ink: #2b2a26; --rule: #d8d1c0; --faint: #6b675c;
  --allowed: #2f6b3a; --depends: #8a5a00; --refused: #a1352a; }
@media (prefers-color-scheme: dark) { :root { --paper: #23221f; --ink: #ece7da; --rule: #47443c; --faint: #aaa493;
  --allowed: #8cc796; --depends: #e0b25a; --refused: #f0968a; } }
body { margin: 2.5rem auto; max-width: 74rem; padding: 0 1.5rem; background: var(--paper); color: var(--ink);
  font: 1rem/1.45 Georgia, 'Liberation Serif', serif; }
h1 { font-size: 1.6rem; font-weight: normal; margin: 0; }
.guild { margin: .2rem 0 1.6rem; color: var(--faint); }
.sheet { overflow-x: auto; }
table { border-collapse: collapse; width: 100%; }
th, td { text-align: left; vertical-align: top; padding: .55rem .9rem .55rem 0; border-bottom: 1px solid var(--rule); }
thead th { border-bottom: 2px solid var(--ink); }
tbody th { font-weight: bold; }
td b { white-space: nowrap; font-weight: normal; }
small { display: block; color: var(--faint); font-size: .8rem; max-width: 17rem; }
.allowed { color: var(--allowed); } .depends { color: var(--depends); } .refused { color: var(--refused); }
.off { color: var(--faint); }
.key { list-style: none; padding: 0; margin-top: 1.4rem; font-size: .8rem; color: var(--faint); }
.key b { font-weight: normal; }
@media print { body { margin: 0; background: none; } }
`;
