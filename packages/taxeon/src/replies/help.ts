/** What help says: a bot without help carries nothing of it. */
import { durationInWords } from '../base/time.js';
import type { Requirement } from '../commands/requirements.js';
import type { Words } from '../contract/words.js';
import { didYouMean } from './messages.js';
import { type Sayer, sayer, translated } from './texts.js';

/** A cooldown, or how many may run at once where there is no window. */
export interface LimitTold {
  readonly uses: number;
  readonly windowMs: number | undefined;
  /** `user`, `guild` …, or a name of the bot's own. */
  readonly counts: string;
}

export const helpTexts = {
  'help.commands': 'Commands',
  'help.needs': 'Needs: {needed}',
  'help.limit': ({ uses, windowMs = 0, counts }: LimitTold) =>
    `Limit: ${uses === 1 ? 'once' : `${uses} times`} in ${durationInWords(windowMs)} ${countedFor(counts)}`,
  'help.running': ({ uses, counts }: Pick<LimitTold, 'uses' | 'counts'>) =>
    `Limit: ${uses} at once ${countedFor(counts)}`,
  'help.page': 'Page {page} of {pages}. Next: {next}',
  'help.nothing-found': ({ name, near }: { readonly name: string; readonly near: readonly string[] }) =>
    `There is no command “${name}”.${didYouMean(near)}`,
  'help.nothing-to-run': 'There is nothing here that you may run.',
  'describe.help': 'What you can do here, and how',
  'describe.help.what': 'Which command or group',
  'describe.help.page': 'Which page of a long list',
} as const;

export const sayInHelp: Sayer<typeof helpTexts> = sayer(helpTexts);

export function limitIn(words: Words, told: LimitTold): string {
  return told.windowMs === undefined ? sayInHelp(words, 'help.running', told) : sayInHelp(words, 'help.limit', told);
}

/** What a person needs to run a command: all of it. */
export function needsIn(words: Words, requirements: readonly Requirement[]): string {
  return sayInHelp(words, 'help.needs', { needed: requirements.map((one) => neededIn(words, one)).join('; ') });
}

function neededIn(words: Words, { key, parameters, operands, traits, english }: Requirement): string {
  const parts = operands.map((one) => neededIn(words, one));
  if (traits.joins !== undefined) return words.list(parts, traits.joins);
  return translated(words, `requires.${key}`, { ...parameters, needed: parts[0] }) ?? english.needed;
}

const countedWords: Readonly<Record<string, string>> = {
  user: 'for each person',
  userHere: 'for each person here',
  channel: 'in each channel',
  guild: 'for everybody here together',
  everyone: 'for everybody together',
};

function countedFor(counts: string): string {
  return countedWords[counts] ?? `for each ${counts}`;
}
