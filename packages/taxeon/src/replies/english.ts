/** English: one compiled function a code. */
import { either } from '../base/text.js';
import { durationInWords, toldWaitMs } from '../base/time.js';
import type { Measure, Missing } from '../contract/codes.js';
import { amountInEnglish, expectedInEnglish } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import type { Language, Messages } from './language.js';

const messages: Messages = {
  'command.unknown': ({ name, because, near, help }) => {
    const problem = because === 'unnamed' ? '' : `There is no command “${name}”.${didYouMean(near)}`;
    return help === undefined ? problem : `${problem} “${help}” tells what I can do here.`.trimStart();
  },
  'command.changed': ({ name }) => `“${name}” has changed meanwhile. Please look for it again.`,
  'command.unavailable': ({ command, because, surface }) =>
    because === 'off'
      ? `“${command}” is switched off here.`
      : `“${command}” is not available ${because === 'surface' ? reached[surface] : 'here'}.`,
  'place.wrong': ({ command, allowed, atConsole }) =>
    atConsole && allowed === 'guild'
      ? `“${command}” works only for a channel. Say for which.`
      : `“${command}” works only in ${allowed === 'guild' ? 'a channel, not in a direct message' : 'a direct message'}.`,
  'permission.caller': ({ missing, denied }) =>
    denied ? 'You are not allowed to do that here.' : `${missing.map(missingInWords).join(' ')}`,
  'permission.bot': ({ name }) =>
    `I need the permission ${name} here before I can do that. Please ask an administrator.`,
  'permission.rank': ({ of, who, because }) => {
    if (because === 'self') return 'You cannot do that to yourself.';
    if (because === 'unknown') return `I cannot tell who ranks above whom here, so I leave ${who} alone.`;
    return of === 'bot'
      ? `${who} ranks above me or level with me here, so I cannot do that.`
      : `You can do that only to people who rank below you, and ${who} does not.`;
  },
  'permission.target': ({ who, because, permission }) => {
    switch (because) {
      case 'the-bot':
        return 'That cannot be done to me.';
      case 'unknown':
        return `I cannot tell whether ${who} is me here, so I leave them alone.`;
      case 'several':
        return `Several people here could be ${who}, so I leave them alone.`;
      case 'a-bot':
        return `${who} is a bot, so that cannot be done to them.`;
      case 'no-bot':
        return `${who} is no bot, so that cannot be done to them.`;
      case 'can':
        return `${who} has the permission ${permission}, so that cannot be done to them.`;
      case 'lacks':
        return `${who} needs the permission ${permission} for that.`;
    }
  },
  'argument.missing': ({ argument, expected }) => `“${argument}” is missing: ${expectedInEnglish(expected)}.`,
  'argument.invalid': ({ argument, read, expected, misfit, measure, near }) => {
    const problem =
      misfit === 'unit' ? 'lacks a unit, as in 3h' : `is ${misfit === 'shape' ? 'not that' : beyond[measure][misfit]}`;
    return `“${argument}” takes ${expectedInEnglish(expected)}; “${read}” ${problem}.${didYouMean(near)}`;
  },
  'argument.ambiguous': ({ argument, read, matches }) =>
    `“${argument}”: “${read}” could be ${either(matches)}. Which one do you mean?`,
  'argument.absent-member': ({ argument, read }) => `“${argument}”: I know “${read}”, but they are not here.`,
  'argument.extra': ({ read, because, argument, expected = '' }) =>
    because === 'twice'
      ? `“${read}” stands twice; once is enough.`
      : `I do not know what to do with “${read}”${argument === undefined ? '' : `: “${argument}” takes ${expectedInEnglish(expected)}`}.`,
  'argument.unknown': ({ name, near }) => `There is no “${name}” in this command.${didYouMean(near)}`,
  'requirement.failed': ({ argument, reason }) => (argument === undefined ? reason : `“${argument}”: ${reason}`),
  'input.malformed': () => 'A quote is opened and never closed.',
  'cooldown.active': ({ counts, retryAfterMs }) =>
    `Not yet${counts === 'user' || counts === 'userHere' ? '' : ', for anybody'}. This works again in ${durationInWords(toldWaitMs(retryAfterMs))}.`,
  'running.full': ({ most }) =>
    most === 1
      ? 'That is being done already. Please wait until it is finished.'
      : `That is being done ${most} times already. Please wait.`,
  'store.unavailable': ({ reference }) =>
    `I cannot look up what holds here just now. Please try again later. (${reference})`,
  'answer.none': ({ because }) => `${unanswered[because]}, so nothing was done.`,
  'answer.stopped': () => 'All right, nothing was done.',
  'layer.closing': () => 'I am about to restart. Please try again in a minute.',
  'handler.failed': ({ reference }) =>
    `Something went wrong on my side. Please tell the people who run me: ${reference}.`,
  'handler.timeout': ({ afterMs, reference }) =>
    afterMs === undefined
      ? `I have to restart and could not finish that. (${reference})`
      : `That was not done within ${durationInWords(afterMs)}, so I stopped waiting for it. (${reference})`,
  'callback.failed': ({ reference }) =>
    `Something went wrong on my side. Please tell the people who run me: ${reference}.`,
  'platform.forbidden': ({ reference }) => `I am not allowed to do that here. (${reference})`,
  'platform.gone': ({ reference }) => `What that was about is not there any more. (${reference})`,
  'platform.unreachable': ({ reference }) =>
    `I could not reach the chat system for that. Please try again later. (${reference})`,
  'platform.slowed': ({ reference }) =>
    `The chat system asks me to slow down. Please try again in a moment. (${reference})`,
  'platform.failed': ({ reference }) =>
    `The chat system could not do that. Please tell the people who run me: ${reference}.`,
};

let dates: Intl.DateTimeFormat | undefined;
let datesZone = '';

const words: Words = {
  locale: 'en',
  list: (all, joined) => (joined === 'or' ? either(all) : either(all, 'and')),
  number: (value) => value.toLocaleString('en'),
  duration: durationInWords,
  datetime(at, timeZone) {
    if (dates === undefined || datesZone !== timeZone) {
      dates = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeStyle: 'short', timeZone });
      datesZone = timeZone;
    }
    return dates.format(at);
  },
  expected: expectedInEnglish,
  amount: amountInEnglish,
};

/** The language of the core; every other comes from `taxeon/icu`, or is one's own. */
export const english: Language = {
  locale: 'en',
  words,
  messages,
  phrases: {
    usage: (written) => `Usage: ${written}`,
    example: (written) => `Example: ${written}`,
    done: () => 'Done.',
    answered: () => 'Answered.',
    unreached: () => 'That is for you alone, and I cannot reach you alone.',
    quiet: (wait) => `I have said that a few times now, so I leave it at that for ${wait}.`,
    quoted: (written) => `As plain text, it is written ${written}.`,
    lowered: (argument, to) => `“${argument}” is lowered to ${to}, the most there may be.`,
    readAs: (argument, read, as) => `“${argument}”: “${read}” is read as ${as}.`,
    cut: () => '… The rest is left out.',
    restApart: () => '… The rest goes to you alone.',
    crowded: () => 'That is more than I can answer: some of it is left out.',
    aliases: (names) => `Also: ${names.join(', ')}`,
  },
};

const unanswered = {
  late: 'There was no answer',
  busy: 'I wait for another answer',
  nobody: 'I cannot ask you here',
} as const;

function missingInWords({ what, name, without }: Missing): string {
  if (what === 'ownership') return without ? 'That is not for the bot’s owners.' : 'That is only for the bot’s owners.';
  return without ? `That is not for those who have the ${what} ${name}.` : `You need the ${what} ${name} for that.`;
}

const beyond: Readonly<Record<Measure, Readonly<Record<'below' | 'above', string>>>> = {
  amount: { below: 'too little', above: 'too much' },
  length: { below: 'too short', above: 'too long' },
  moment: { below: 'too early', above: 'too late' },
  count: { below: 'too few', above: 'too many' },
  size: { below: 'too small', above: 'too large' },
};

const reached = {
  text: 'in a message',
  slash: 'as a slash command',
  console: 'at the console',
  program: 'to the bot’s own code',
} as const;

export function didYouMean(near: readonly string[]): string {
  return near.length === 0 ? '' : ` Did you mean ${either(near)}?`;
}
