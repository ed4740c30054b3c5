/** Help in words. */

import { echo } from '../../base/text.js';
import type { Notice } from '../../contract/notice.js';
import { lineInWords } from '../../pipeline/overview.js';
import { helpPhrases } from '../../replies/help.js';
import type { Language } from '../../replies/language.js';
import type { CommandHelp, Help } from './data.js';

export interface HelpWording {
  readonly language: Language;
  /** What was asked for, as it was typed. */
  readonly asked: string;
  /** How much fits on a page. */
  readonly fits: (notice: Notice) => boolean;
  readonly page: number;
  /** What to write for another page. */
  readonly written: (page: number) => string;
}

/** A notice that says it, of a list the page that was asked for. */
export function helpNotice(help: Help, wording: HelpWording): Notice {
  const { language } = wording;
  const { phrases } = language;
  const inHelp = helpPhrases(language);
  switch (help.kind) {
    case 'nothing':
      return { tone: 'problem', body: inHelp.nothingFound(echo(wording.asked), help.near) };
    case 'command':
      return commandNotice(help, wording.language);
    case 'group': {
      const { name, description, aliases } = help;
      const notes = aliases.length === 0 ? [] : [phrases.aliases(aliases)];
      return paged(
        { tone: 'info', heading: name, body: description, details: notes },
        help.lines.map(lineInWords),
        wording,
      );
    }
    case 'index': {
      const lines = help.sections.flatMap(({ heading, lines }) => [
        ...(heading === undefined ? [] : [`${heading}`]),
        ...lines.map(lineInWords),
      ]);
      if (lines.length === 0) return { tone: 'info', body: inHelp.nothingToRun() };
      return paged({ tone: 'info', heading: inHelp.commands(), body: '' }, lines, wording);
    }
  }
}

function commandNotice(help: CommandHelp, language: Language): Notice {
  const { phrases, words, messages } = language;
  const inHelp = helpPhrases(language);
  const { name, description, usage, args, aliases, examples, requires, lacks, limits } = help;
  const details = [
    phrases.usage(usage),
    ...args.map(({ written, description: what, expected }) => {
      const told = words.expected(expected);
      return `  ${written}: ${what === undefined ? told : `${what} (${told})`}`;
    }),
    ...examples.map((example) => phrases.example(example)),
    ...(aliases.length === 0 ? [] : [phrases.aliases(aliases)]),
    ...(requires.length === 0 ? [] : [inHelp.needs(requires)]),
    ...lacks.map((permission) => messages['permission.bot']({ name: permission })),
    ...limits.map((limit) => inHelp.limit(limit)),
  ];
  return { tone: 'info', heading: name, body: description, details };
}

/** As many lines as fit, from where the page begins; the last page where there are not so many. */
function paged(head: Notice, lines: readonly string[], { language, fits, page, written }: HelpWording): Notice {
  const inHelp = helpPhrases(language);
  const pages: string[][] = [[]];
  for (const line of lines) {
    const current = pages.at(-1) as string[];
    // Whether there will be a next page is not known yet, so its line is counted in.
    const withNext = [...current, line, inHelp.page(99, 99, written(99))];
    if (current.length === 0 || fits({ ...head, details: [...(head.details ?? []), ...withNext] })) current.push(line);
    else pages.push([line]);
  }
  const shown = Math.min(page, pages.length);
  const more = shown < pages.length ? [inHelp.page(shown, pages.length, written(shown + 1))] : [];
  return { ...head, details: [...(head.details ?? []), ...(pages[shown - 1] ?? []), ...more] };
}
