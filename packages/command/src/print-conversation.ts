/** A played conversation as a person enjoys reading it: who, where, what was typed, what came back, who sees it. */

import { type Exchange, type Post, type StandIn, writeSlashLine } from '@taxeon/testing';
import type { LoggedLine, Mismatch, Played } from '@taxeon/testing/tryouts';
import colors from 'picocolors';
import { durationInWords, type Outcome, plainText, type Status } from 'taxeon';
import { type Input, visibleText, withoutUnseen } from 'taxeon/platform';
import { print } from './print.js';
import { padEnd, terminalWidth, widthOf, wrap, wrapAll } from './terminal.js';

export interface ConversationPrinter {
  title(title: string, begins: number): void;
  step(played: Played): void;
  /** What the bot says without being spoken to. */
  posts(posts: readonly Post[]): void;
  /** Prints the count of outcomes; whether each was the expected one. */
  summary(played: readonly Played[]): boolean;
}

const NAME_WIDTH = 8;
export const LONGEST_TITLE = 200;
const INDENT = ' '.repeat(NAME_WIDTH + 10);
/** Beside what a difference is about, there must be room for two columns. */
const LEAST_FOR_DIFFERENCE = 56;

/** @param echoes whether what a person types is printed; not where it stands in the terminal already */
export function createConversationPrinter(
  platform: StandIn,
  { echoes = true }: { readonly echoes?: boolean } = {},
): ConversationPrinter {
  const bot = nameOfBot(platform);
  let place = '';

  function said(margin: string, name: string, paint: (text: string) => string, text: string): void {
    const lines = text.split('\n').flatMap((line) => wrap(line, terminalWidth() - INDENT.length));
    print(`  ${margin}  ${paint(padEnd(visibleText(name), NAME_WIDTH))} ${lines[0] ?? ''}`);
    for (const line of lines.slice(1)) print(`${INDENT}${line}`);
  }

  /** What nobody says. */
  function aside(text: string): void {
    for (const line of wrap(text, terminalWidth() - INDENT.length)) print(colors.dim(`${INDENT}${line}`));
  }

  function reply(post: Post, { input, outcome }: Exchange): void {
    const { notice, place, earlier } = post;
    if (place.kind === 'direct' && input.place.kind !== 'direct') {
      said(
        '    ✉',
        bot,
        colors.cyan,
        `${shownLines(plainText(notice))}${colors.dim(` (to ${personName(platform, post.visibleTo)}, directly)`)}`,
      );
      return;
    }
    if (post.heldAt !== undefined) {
      said('    …', bot, colors.dim, colors.dim(`(holds the reply after ${durationInWords(post.heldAt - input.at)})`));
    }
    for (const before of earlier)
      said('    …', bot, colors.dim, colors.dim(withoutUnseen(plainText(before).replace('\n', '  '))));
    const { sign, paint } = marks[outcome.status];
    said(`    ${paint(sign)}`, bot, paint, shownLines(plainText(notice)) + colors.dim(notesOn(post, input)));
  }

  function differing(mismatches: readonly Mismatch[]): void {
    if (mismatches.length === 0) return;
    const isNarrow = terminalWidth() - INDENT.length < LEAST_FOR_DIFFERENCE;
    const indent = isNarrow ? '    ' : INDENT;
    for (const line of mismatchLines(mismatches, terminalWidth() - indent.length)) print(`${indent}${line}`);
  }

  /** What the bot says without being spoken to. */
  function meanwhile({ notice, place: at, visibleTo }: Post): void {
    const { sign, paint } = marks[notice.tone === 'problem' ? 'refused' : 'completed'];
    const where =
      at.kind === 'direct'
        ? `to ${personName(platform, visibleTo)}, directly`
        : `in ${placeName({ surface: 'text', place: at })}`;
    said(`    ${paint(sign)}`, bot, paint, shownLines(plainText(notice)) + colors.dim(` (${where})`));
  }

  /** Where the log has more of a failure than the reply may say. */
  function logged({ fields, message }: LoggedLine): void {
    if (typeof fields['reference'] !== 'string') return;
    const error = fields['error'] === undefined ? '' : `: ${String(fields['error'])}`;
    said('     ', 'log', colors.dim, colors.dim(withoutUnseen(`${fields['reference']}  ${message}${error}`)));
  }

  return {
    posts(posts) {
      for (const post of posts) meanwhile(post);
    },
    title(title, begins) {
      const day = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeZone: 'UTC' }).format(begins);
      print(`\n  ${colors.bold(visibleText(title, LONGEST_TITLE))}\n  ${colors.dim(day)}`);
    },
    step(played) {
      switch (played.kind) {
        case 'scene':
          place = '';
          print(`\n  ${colors.bold(colors.underline(visibleText(played.text, LONGEST_TITLE)))}`);
          return;
        case 'event':
          aside(`(${shownLines(played.text)})`);
          differing(played.differences);
          return;
        case 'wait':
          aside(`… ${played.duration} later`);
          for (const post of played.posts) meanwhile(post);
          differing(played.differences);
          return;
        case 'exchange': {
          const { input, outcome, posts } = played.exchange;
          const where = placeName(input);
          if (echoes && where !== place) print(`${place === '' ? '' : '\n'}  ${colors.dim(where)}`);
          place = where;
          if (echoes)
            said(colors.dim(clockTime(input.at)), input.caller.name, colors.cyan, shownLines(typedLine(input)));
          for (const post of posts) reply(post, played.exchange);
          for (const line of played.logged) logged(line);
          if (posts.length === 0) aside(silence(outcome, bot, input));
          differing(played.differences);
        }
      }
    },
    summary(played) {
      const exchanges = played.filter((step) => step.kind === 'exchange');
      const counts = new Map<string, number>();
      for (const { exchange } of exchanges) {
        counts.set(exchange.outcome.status, (counts.get(exchange.outcome.status) ?? 0) + 1);
      }
      const wrong = played
        .filter((step) => step.kind !== 'scene')
        .filter(({ differences }) => differences.length > 0).length;
      const told = [...counts].map(([status, count]) => `${count} ${status}`).join(', ');
      print('');
      for (const line of wrap(`${colors.bold(`${exchanges.length} inputs`)}: ${told}.`, terminalWidth() - 2))
        print(`  ${line}`);
      print(
        wrong === 0
          ? colors.green('  Each came out as the script expects.\n')
          : colors.red(`  ${wrong} did not come out as the script expects.\n`),
      );
      return wrong === 0;
    },
  };
}

/** Nothing that is said or typed moves the cursor, or turns the line around. */
function shownLines(text: string): string {
  return text.split('\n').map(withoutUnseen).join('\n');
}

function nameOfBot({ directory: { guilds, people, self } }: StandIn): string {
  for (const guild of guilds.values()) {
    const member = self(guild) as { name: string } | undefined;
    if (member !== undefined) return member.name;
  }
  return [...people.values()].find(({ isBot }) => isBot)?.name ?? 'bot';
}

function personName({ directory: { people } }: StandIn, id: string): string {
  return people.get(id)?.name ?? id;
}

/** Who alone sees a reply, and for how long. */
function notesOn({ visibleTo, at, goneAt }: Post, { place, caller, locale, surface }: Input): string {
  const notes: string[] = [];
  if (visibleTo !== 'everyone' && place.kind === 'guild' && surface !== 'console')
    notes.push(`for ${visibleText(caller.name)} alone`);
  if (goneAt !== undefined) notes.push(`goes after ${durationInWords(goneAt - at)}`);
  if (locale !== undefined) notes.push(`in ${locale}`);
  return notes.length === 0 ? '' : ` (${notes.join('; ')})`;
}

function clockTime(at: number): string {
  return new Date(at).toISOString().slice(11, 16);
}

/** A sign beside the colour, for eyes and terminals without it. */
const marks: Readonly<Record<Status, { sign: string; paint: (text: string) => string }>> = {
  completed: { sign: '✓', paint: colors.green },
  refused: { sign: '✗', paint: colors.yellow },
  invalid: { sign: '?', paint: colors.yellow },
  waiting: { sign: '…', paint: colors.blue },
  failed: { sign: '!', paint: colors.red },
  ignored: { sign: '·', paint: colors.dim },
};

const consoleName = "the bot's own console";

function silence(outcome: Outcome, bot: string, { surface }: Input): string {
  if (outcome.status === 'waiting' && surface === 'slash') {
    const { asks } = outcome;
    return `(${bot} shows a form: ${asks.for === 'argument' ? asks.argument : withoutUnseen(asks.question)})`;
  }
  if (outcome.status === 'ignored') return `(chat; ${bot} stays silent)`;
  return `(${bot} says nothing: ${'code' in outcome ? outcome.code : outcome.status})`;
}

function placeName({ surface, place }: Pick<Input, 'surface' | 'place'>): string {
  if (surface === 'console' && place.kind !== 'console')
    return `${consoleName}, about ${placeName({ surface: 'text', place })}`;
  switch (place.kind) {
    case 'guild':
      return visibleText(`${place.guild.name} ${place.channel.name}`);
    case 'direct':
      return 'direct message';
    case 'console':
      return consoleName;
  }
}

function typedLine({ text, path = [], options, fills, answers = {} }: Input): string {
  if (fills !== undefined) {
    return `(fills in the form: ${Object.entries(answers)
      .map(([name, answer]) => `${name} = ${answer}`)
      .join(', ')})`;
  }
  return text ?? writeSlashLine(path, options);
}

// What is not as expected, in columns side by side.
const NARROWEST = 14;

/** `what`, what was expected, and what was said, each in its column. */
function mismatchLines(mismatches: readonly Mismatch[], width: number): string[] {
  const longest = Math.max(...mismatches.map((one) => widthOf(one.what)), 0);
  const what = Math.min(longest, Math.max(NARROWEST, width - 2 * NARROWEST - 4));
  const column = Math.max(NARROWEST, Math.floor((width - what - 4) / 2));
  const widths = [what, column, column];
  return [
    row(['', 'expected', 'said'], widths).map(colors.dim),
    ...mismatches.map((one) => row([one.what, one.expected, one.said], widths).map((line) => colors.red(line))),
  ].flat();
}

function row(cells: readonly string[], widths: readonly number[]): string[] {
  const columns = cells.map((cell, index) =>
    cell.split('\n').flatMap((line) => wrapAll(withoutUnseen(line), widths[index] ?? 0)),
  );
  const height = Math.max(...columns.map(({ length }) => length));
  return Array.from({ length: height }, (_, line) =>
    columns
      .map((column, index) => padEnd(column[line] ?? '', widths[index] ?? 0))
      .join('  ')
      .trimEnd(),
  );
}
