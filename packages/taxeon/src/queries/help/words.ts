/** Help in words. */

import { echo } from '../../base/text.js';
import type { Notice } from '../../contract/notice.js';
import type { Words } from '../../contract/words.js';
import { lineInWords } from '../../pipeline/overview.js';
import { limitIn, needsIn, sayInHelp } from '../../replies/help.js';
import { messageIn } from '../../replies/messages.js';
import { sayInReply } from '../../replies/phrases.js';
import type { CommandHelp, Help } from './data.js';

export interface HelpWording {
  readonly words: Words;
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
  const { words } = wording;
  switch (help.kind) {
    case 'nothing':
      return {
        tone: 'problem',
        body: sayInHelp(words, 'help.nothing-found', { name: echo(wording.asked), near: help.near }),
      };
    case 'command':
      return commandNotice(help, words);
    case 'group': {
      const { name, description, aliases } = help;
      const notes = aliases.length === 0 ? [] : [sayInReply(words, 'reply.aliases', { names: aliases.join(', ') })];
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
      if (lines.length === 0) return { tone: 'info', body: sayInHelp(words, 'help.nothing-to-run') };
      return paged({ tone: 'info', heading: sayInHelp(words, 'help.commands'), body: '' }, lines, wording);
    }
  }
}

function commandNotice(help: CommandHelp, words: Words): Notice {
  const { name, description, usage, args, aliases, examples, requires, lacks, limits } = help;
  const details = [
    sayInReply(words, 'reply.usage', { written: usage }),
    ...args.map(({ written, description: what, expected }) => {
      const told = words.expected(expected);
      return `  ${written}: ${what === undefined ? told : `${what} (${told})`}`;
    }),
    ...examples.map((example) => sayInReply(words, 'reply.example', { written: example })),
    ...(aliases.length === 0 ? [] : [sayInReply(words, 'reply.aliases', { names: aliases.join(', ') })]),
    ...(requires.length === 0 ? [] : [needsIn(words, requires)]),
    ...lacks.map((permission) => messageIn(words, { code: 'permission.bot', parameters: { name: permission } })),
    ...limits.map((limit) => limitIn(words, limit)),
  ];
  return { tone: 'info', heading: name, body: description, details };
}

/** As many lines as fit, from where the page begins; the last page where there are not so many. */
function paged(head: Notice, lines: readonly string[], { words, fits, page, written }: HelpWording): Notice {
  const pages: string[][] = [[]];
  for (const line of lines) {
    const current = pages.at(-1) as string[];
    // Whether there will be a next page is not known yet, so its line is counted in.
    const withNext = [...current, line, sayInHelp(words, 'help.page', { page: 99, pages: 99, next: written(99) })];
    if (current.length === 0 || fits({ ...head, details: [...(head.details ?? []), ...withNext] })) current.push(line);
    else pages.push([line]);
  }
  const shown = Math.min(page, pages.length);
  const more =
    shown < pages.length
      ? [sayInHelp(words, 'help.page', { page: shown, pages: pages.length, next: written(shown + 1) })]
      : [];
  return { ...head, details: [...(head.details ?? []), ...(pages[shown - 1] ?? []), ...more] };
}
