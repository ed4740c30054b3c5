/** What each code says in English: one compiled function a code. */
import { either } from '../base/text.js';
import { durationInWords } from '../base/time.js';
import type { Code, CodeParameters, Measure, Missing } from '../contract/codes.js';

export type Messages = { readonly [C in Code]: (parameters: CodeParameters[C]) => string };

export const english: Messages = {
  'command.unknown': ({ name, near }) => `There is no command “${name}”.${didYouMean(near)}`,
  'command.unavailable': ({ command, because, surface }) =>
    because === 'off' ? `${command} is switched off here.` : `${command} is not available as a ${surface} command.`,
  'place.wrong': ({ command, allowed }) =>
    allowed === 'guild' ? `${command} works only in a guild’s channel.` : `${command} works only in a direct message.`,
  'permission.caller': ({ missing, denied }) =>
    denied ? 'You are not allowed to do that here.' : `${missing.map(missingInWords).join(' ')}`,
  'permission.bot': ({ name }) =>
    `I need the permission ${name} here before I can do that. Please ask an administrator.`,
  'permission.rank': ({ of, who, because }) => {
    if (because === 'self') return 'You cannot do that to yourself.';
    if (because === 'unknown') return `I cannot tell who ranks above whom here, so I leave ${who} alone.`;
    return of === 'bot'
      ? `${who} ranks above me or level with me here, so I cannot do that.`
      : `You can do that only to somebody who ranks below you, and ${who} does not.`;
  },
  'permission.target': ({ who, because, permission }) => {
    switch (because) {
      case 'the-bot':
        return 'That cannot be done to me.';
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
  'argument.missing': ({ argument, expected }) => `${argument} is missing: ${expected}.`,
  'argument.invalid': ({ argument, read, expected, misfit, measure, near }) => {
    const problem = misfit === 'shape' ? 'not that' : beyond[measure][misfit];
    return `${argument} takes ${expected}; “${read}” is ${problem}.${didYouMean(near)}`;
  },
  'argument.ambiguous': ({ argument, read, matches }) =>
    `${argument}: “${read}” could be ${either(matches)}. Which one do you mean?`,
  'argument.absent-member': ({ argument, read }) => `${argument}: I know “${read}”, but they are not in this guild.`,
  'argument.extra': ({ read }) => `I do not know what to do with “${read}”.`,
  'argument.unknown': ({ name, near }) => `There is no argument “${name}”.${didYouMean(near)}`,
  'requirement.failed': ({ argument, reason }) => (argument === undefined ? reason : `${argument}: ${reason}`),
  'input.malformed': () => 'A quote is opened and never closed.',
  'cooldown.active': ({ counts, retryAfterMs }) =>
    `${counts === 'user' || counts === 'member' ? 'That was quick.' : 'That was done here a moment ago.'} Try again in ${durationInWords(retryAfterMs)}.`,
  'running.full': ({ most }) =>
    most === 1
      ? 'That is being done already. Please wait until it is finished.'
      : `That is being done ${most} times already. Please wait.`,
  'store.unavailable': ({ reference }) =>
    `I cannot look up the limits just now. Please try again later. (${reference})`,
  'handler.failed': ({ reference }) => `Something went wrong on my side. Please tell whoever runs me: ${reference}.`,
  'callback.failed': ({ reference }) => `Something went wrong on my side. Please tell whoever runs me: ${reference}.`,
};

function missingInWords({ what, name, without }: Missing): string {
  if (what === 'ownership') return without ? 'That is not for the bot’s owners.' : 'That is only for the bot’s owners.';
  return without ? `That is not for those who have the ${what} ${name}.` : `You need the ${what} ${name} for that.`;
}

const beyond: Readonly<Record<Measure, Readonly<Record<'below' | 'above', string>>>> = {
  amount: { below: 'too little', above: 'too much' },
  length: { below: 'too short', above: 'too long' },
  moment: { below: 'too early', above: 'too late' },
  count: { below: 'too few', above: 'too many' },
};

function didYouMean(near: readonly string[]): string {
  return near.length === 0 ? '' : ` Did you mean ${either(near)}?`;
}
