/** What help says in English, apart from the language itself: a bot without help carries nothing of it. */
import { durationInWords } from '../base/time.js';
import { didYouMean } from './english.js';
import type { HelpPhrases, Language } from './language.js';

export function helpPhrases({ help = english }: Language): HelpPhrases {
  return help;
}

export const english: HelpPhrases = {
  commands: () => 'Commands',
  needs: (requirements) => `Needs: ${requirements.map((one) => one.english.needed).join('; ')}`,
  limit: ({ uses, windowMs, counts }) =>
    windowMs === undefined
      ? `Limit: ${uses} at once ${countedFor(counts)}`
      : `Limit: ${uses === 1 ? 'once' : `${uses} times`} in ${durationInWords(windowMs)} ${countedFor(counts)}`,
  page: (page, pages, next) => `Page ${page} of ${pages}. Next: ${next}`,
  nothingFound: (name, near) => `There is no command “${name}”.${didYouMean(near)}`,
  nothingToRun: () => 'There is nothing here that you may run.',
};

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
