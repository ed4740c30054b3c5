/** What is said for each code, in English beside its parameters in contract/codes. */
import { fillIn } from '../base/template.js';
import { either } from '../base/text.js';
import { durationInWords, toldWaitMs } from '../base/time.js';
import type { Code, Coded, CodeParameters, Measure, Missing } from '../contract/codes.js';
import { expectedInEnglish } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import { sayIn, type Text } from './texts.js';

type CodeTexts = { readonly [C in Code]: Text<CodeParameters[C]> };

export const messageTexts: CodeTexts = {
  'command.unknown': ({ name, because, near, help }) => {
    const problem = because === 'unnamed' ? '' : `There is no command “${name}”.${didYouMean(near)}`;
    return help === undefined ? problem : `${problem} “${help}” tells what I can do here.`.trimStart();
  },
  'command.changed': '“{name}” has changed meanwhile. Please look for it again.',
  'command.unavailable': ({ command, because, surface }) =>
    because === 'off'
      ? `“${command}” is switched off here.`
      : `“${command}” is not available ${because === 'surface' ? reached[surface] : 'here'}.`,
  'place.wrong': ({ command, allowed, atConsole }) =>
    atConsole && allowed === 'guild'
      ? `“${command}” works only for a channel. Say for which.`
      : `“${command}” works only in ${allowed === 'guild' ? 'a channel, not in a direct message' : 'a direct message'}.`,
  'permission.caller': ({ missing, denied }) =>
    denied
      ? 'You are not allowed to do that here.'
      : missing.map((one) => fillIn(missingTexts[one.what][one.without ? 1 : 0], one)).join(' '),
  'permission.bot': 'I need the permission {name} here before I can do that. Please ask an administrator.',
  'permission.rank': (parameters) =>
    fillIn(rankTexts[parameters.because === 'not-above' ? parameters.of : parameters.because], parameters),
  'permission.target': (parameters) => fillIn(targetTexts[parameters.because], parameters),
  'argument.missing': ({ argument, expected }) => `“${argument}” is missing: ${expectedInEnglish(expected)}.`,
  'argument.invalid': ({ argument, read, expected, misfit, measure, near }) => {
    // A validator's own sentence.
    if (misfit === 'own') return `“${argument}”: ${expectedInEnglish(expected)}`;
    const problem =
      misfit === 'unit' ? 'lacks a unit, as in 3h' : `is ${misfit === 'shape' ? 'not that' : beyond[measure][misfit]}`;
    return `“${argument}” takes ${expectedInEnglish(expected)}; “${read}” ${problem}.${didYouMean(near)}`;
  },
  'argument.ambiguous': ({ argument, read, matches }) =>
    `“${argument}”: “${read}” could be ${either(matches)}. Which one do you mean?`,
  'argument.absent-member': '“{argument}”: I know “{read}”, but they are not here.',
  'argument.extra': ({ read, because, argument, expected = '' }) =>
    because === 'twice'
      ? `“${read}” stands twice; once is enough.`
      : `I do not know what to do with “${read}”${argument === undefined ? '' : `: “${argument}” takes ${expectedInEnglish(expected)}`}.`,
  'argument.unknown': ({ name, near }) => `There is no “${name}” in this command.${didYouMean(near)}`,
  'requirement.failed': ({ argument, reason = 'That cannot be done as things are.' }) =>
    argument === undefined ? reason : `“${argument}”: ${reason}`,
  'input.malformed': 'A quote is opened and never closed.',
  'cooldown.active': ({ counts, retryAfterMs }) =>
    `Not yet${counts === 'user' || counts === 'userHere' ? '' : ', for anybody'}. This works again in ${durationInWords(toldWaitMs(retryAfterMs))}.`,
  'running.full': ({ most }) =>
    most === 1
      ? 'That is being done already. Please wait until it is finished.'
      : `That is being done ${most} times already. Please wait.`,
  'store.unavailable': 'I cannot look up what holds here just now. Please try again later. ({reference})',
  'answer.none': ({ because }) => `${unanswered[because]}, so nothing was done.`,
  'answer.stopped': 'All right, nothing was done.',
  'layer.closing': 'I am about to restart. Please try again in a minute.',
  'handler.failed': 'Something went wrong on my side. Please tell the people who run me: {reference}.',
  'handler.timeout': ({ afterMs, reference }) =>
    afterMs === undefined
      ? `I have to restart and could not finish that. (${reference})`
      : `That was not done within ${durationInWords(afterMs)}, so I stopped waiting for it. (${reference})`,
  'callback.failed': 'Something went wrong on my side. Please tell the people who run me: {reference}.',
  'platform.forbidden': 'I am not allowed to do that here. ({reference})',
  'platform.gone': 'What that was about is not there any more. ({reference})',
  'platform.unreachable': 'I could not reach the chat system for that. Please try again later. ({reference})',
  'platform.slowed': 'The chat system asks me to slow down. Please try again in a moment. ({reference})',
  'platform.failed': 'The chat system could not do that. Please tell the people who run me: {reference}.',
};

/**
 * The message for a code, in a language that has it, else in English.
 *
 * @example
 * const outcome = await layer.handle(input, platform);
 * if (hasCode(outcome, 'cooldown.active')) console.log(messageIn(english.words, outcome));
 */
export function messageIn<C extends Code>(words: Words | undefined, { code, parameters }: Coded<C>): string {
  return sayIn(words, code, messageTexts[code] as Text<CodeParameters[C]>, parameters);
}

const unanswered = {
  late: 'There was no answer',
  busy: 'I wait for another answer',
  nobody: 'I cannot ask you here',
} as const;

/** What is said to a caller who lacks it, and to one who has it and must not. */
const missingTexts: Readonly<Record<Missing['what'], readonly [lacks: string, has: string]>> = {
  permission: ['You need the permission {name} for that.', 'That is not for those who have the permission {name}.'],
  role: ['You need the role {name} for that.', 'That is not for those who have the role {name}.'],
  ownership: ['That is only for the bot’s owners.', 'That is not for the bot’s owners.'],
};

const rankTexts = {
  self: 'You cannot do that to yourself.',
  unknown: 'I cannot tell who ranks above whom here, so I leave {who} alone.',
  bot: '{who} ranks above me or level with me here, so I cannot do that.',
  caller: 'You can do that only to people who rank below you, and {who} does not.',
} as const;

const targetTexts: Readonly<Record<CodeParameters['permission.target']['because'], string>> = {
  'the-bot': 'That cannot be done to me.',
  unknown: 'I cannot tell whether {who} is me here, so I leave them alone.',
  several: 'Several people here could be {who}, so I leave them alone.',
  'a-bot': '{who} is a bot, so that cannot be done to them.',
  'no-bot': '{who} is no bot, so that cannot be done to them.',
  can: '{who} has the permission {permission}, so that cannot be done to them.',
  lacks: '{who} needs the permission {permission} for that.',
};

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
