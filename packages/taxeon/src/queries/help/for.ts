/** Help as a person reads it where they are. */
import { botPermissionsIn } from '../../access/compile.js';
import { memberCan } from '../../access/context.js';
import { echoText } from '../../base/text.js';
import { isThenable, type MaybePromise, patiently, promised } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import { type Call, callOrigin } from '../../commands/call.js';
import type { Input } from '../../contract/input.js';
import type { Notice } from '../../contract/notice.js';
import { guildOf, type Platform } from '../../contract/platform.js';
import type { Words } from '../../contract/words.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { insideOf, lookFrom } from '../../layer/inside.js';
import { examplesFor } from '../../pipeline/examples.js';
import { lineInWords, listingFor, prefixOf } from '../../pipeline/overview.js';
import { readingContextOf } from '../../pipeline/read.js';
import type { Heard } from '../../pipeline/state.js';
import { limitIn, needsIn, sayInHelp } from '../../replies/help.js';
import { messageIn } from '../../replies/messages.js';
import { plainText } from '../../replies/notice.js';
import { sayInReply } from '../../replies/phrases.js';
import { type CommandHelp, type Help, helpOn } from './data.js';

/**
 * What the caller may run here, or all about one command or group: a page of it, ready to be said.
 *
 * @example
 * command({ name: 'help', description: 'What I can do', run: (call) => helpNotice(layer, call) });
 */
export async function helpNotice(layer: CommandLayer, call: Call, name?: string, page = 1): Promise<Notice> {
  const { input, platform, nameAt } = call[callOrigin];
  const heard = await lookFrom(insideOf(layer), input, platform, nameAt);
  return noticeOf(await dataFor(heard, name), {
    words: heard.conversation.language.words,
    asked: name ?? '',
    page,
    fits: (notice) => plainText(notice).length <= A_PAGE || pageLength(heard, notice) <= longestPage(heard),
    // As the command that was called is written, be it renamed.
    written: (next) => [`${prefixOf(heard)}${call.command}`, '--page', String(next), name ?? ''].join(' ').trim(),
  });
}

/**
 * The same as data, for an input that need not be a call.
 *
 * @example
 * const help = await helpOf(layer, input, 'borrow', platform);
 * if (help.kind === 'command') console.log(help.usage);
 */
export async function helpOf(layer: CommandLayer, input: Input, name?: string, platform?: Platform): Promise<Help> {
  return dataFor(await lookFrom(insideOf(layer), input, platform), name);
}

function dataFor(heard: Heard, name: string | undefined): MaybePromise<Help> {
  const lackedBy = (command: CompiledCommand) => lackedHere(heard, command);
  const examplesOf = (command: CompiledCommand) => examplesHere(heard, command);
  return helpOn({ ...listingFor(heard), catalogue: heard.catalogue, examplesOf, lackedBy }, name);
}

/** None for those who do not type, or where what they are made of is not told in time. */
export function examplesHere(heard: Heard, command: CompiledCommand): MaybePromise<readonly string[]> {
  const { surface, input, basis } = heard;
  if (surface === 'slash' && input.text === undefined) return [];
  const examples = examplesFor(command, readingContextOf(heard));
  if (!isThenable(examples)) return examples;
  return patiently(basis.clock, examples, basis.patienceMs).catch(() => []);
}

/** Nothing where there is no guild, or the platform does not tell. */
async function lackedHere(heard: Heard, { requires }: CompiledCommand): Promise<readonly string[]> {
  const { platform, input, basis, settings, rights } = heard;
  const guild = guildOf(input.place);
  const needed = botPermissionsIn(requires);
  if (platform === undefined || guild === undefined || needed.length === 0) return [];
  try {
    const asked = promised(() => platform.directory.self(guild));
    const bot = await patiently(basis.clock, asked, basis.patienceMs);
    if (bot === undefined) return [];
    return needed.filter((permission) => !memberCan(bot, permission, { rights, settings }));
  } catch (error) {
    basis.log.warn({ platform: platform.name, guild: guild.id, error }, 'Help could not look at the bot');
    return [];
  }
}

/** As much is a page, be it said in several messages. */
const A_PAGE = 600;
/** Where a platform does not say how long a message may be, a screenful. */
const A_SCREENFUL = 1500;

function longestPage({ platform }: Heard): number {
  return platform?.capabilities.longestReply ?? A_SCREENFUL;
}

function pageLength({ platform }: Heard, notice: Notice): number {
  return platform?.measure?.(notice) ?? plainText(notice).length;
}

// Help in words.
interface HelpWording {
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
function noticeOf(help: Help, wording: HelpWording): Notice {
  const { words } = wording;
  switch (help.kind) {
    case 'nothing':
      return {
        tone: 'problem',
        body: sayInHelp(words, 'help.nothing-found', { name: echoText(wording.asked), near: help.near }),
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
