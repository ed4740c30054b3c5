/** Every code with when it happens and an example of its parameters: docs/replies.md is made of it. */

import { japanese, polish } from '@taxeon/icu';
import { arg, type Code, type CodeParameters, english, type Language, manners, messageIn } from 'taxeon';

interface Entry<C extends Code> {
  readonly when: string;
  readonly example: CodeParameters[C];
}

export const codeTable: { readonly [C in Code]: Entry<C> } = {
  'command.unknown': {
    when: 'No command has that name. On text it is told only where some name that the caller may use is near, or where the bot was called by its name.',
    example: { name: 'borow', because: 'unknown', near: ['borrow'], help: undefined },
  },
  'command.changed': {
    when: 'A slash invocation of what is registered still, and was taken out of the catalogue.',
    example: { name: 'lend' },
  },
  'command.unavailable': {
    when: 'The command is not reached this way, it is switched off in this guild or not for it, or the platform has no way to look up what it names.',
    example: { command: 'announce', because: 'off', surface: 'text' },
  },
  'place.wrong': {
    when: 'The command belongs in a guild, or in a direct message.',
    example: { command: 'borrow', allowed: 'guild', atConsole: false },
  },
  'permission.caller': {
    when: 'The caller lacks a permission, a role or ownership, or the guild denies it to them.',
    example: { missing: [{ what: 'permission', name: 'fine', without: false }], denied: false },
  },
  'permission.rank': {
    when: 'The caller or the bot does not rank above the target.',
    example: { of: 'caller', argument: 'who', who: 'Odalys', because: 'not-above' },
  },
  'permission.bot': { when: 'The bot itself lacks a permission.', example: { name: 'give-badges' } },
  'permission.target': {
    when: 'The target is the bot, is or is no bot, or has or lacks a permission.',
    example: { argument: 'who', who: 'Kiosk', because: 'a-bot', permission: '' },
  },
  'requirement.failed': {
    when: 'A condition of the bot’s own says no, of the caller or across arguments.',
    example: { argument: 'to', reason: 'A reservation ends after it begins.' },
  },
  'argument.missing': {
    when: 'A required argument was not given.',
    example: { argument: 'tool', expected: arg.text({ max: 40 }).kind.expected },
  },
  'argument.invalid': {
    when: 'What was given is of another form, or beyond a bound.',
    example: {
      argument: 'keep',
      read: '20d',
      expected: arg.duration({ min: '1h', max: '12d' }).kind.expected,
      misfit: 'above',
      measure: 'length',
      near: [],
    },
  },
  'argument.ambiguous': {
    when: 'Several people, roles or channels fit.',
    example: { argument: 'who', read: 'w', matches: ['Wren', 'Wyn'] },
  },
  'argument.extra': {
    when: 'Something is left over that no argument takes.',
    example: { read: 'please', because: 'left-over', argument: undefined, expected: undefined },
  },
  'argument.unknown': {
    when: 'There is no such flag or option.',
    example: { name: '--tentativ', near: ['--tentative'] },
  },
  'argument.absent-member': {
    when: 'The platform knows them, but they are not here. Said to the bot’s owners alone: others read `argument.invalid`.',
    example: { argument: 'who', read: 'pim' },
  },
  'input.malformed': { when: 'A quote is opened and never closed.', example: { what: 'unclosed-quote' } },
  'cooldown.active': {
    when: 'A cooldown has no use left.',
    example: { counts: 'user', retryAfterMs: 540_000, endsAt: 0 },
  },
  'running.full': { when: 'As many calls run already as may.', example: { counts: 'guild', most: 1 } },
  'store.unavailable': {
    when: 'The store did not answer, and the policy is to refuse.',
    example: { reference: 'h4az8mnf' },
  },
  'answer.none': {
    when: 'Nobody answered what was asked in time, something else is being asked, or nobody can be asked here.',
    example: { asked: 'pence', because: 'late' },
  },
  'answer.stopped': { when: 'The caller did not want to answer, or said no.', example: { asked: 'pence' } },
  'layer.closing': { when: 'The bot is shutting down.', example: {} },
  'handler.failed': {
    when: 'The handler threw; the log has the rest under the reference.',
    example: { reference: 'h4az8mnf' },
  },
  'handler.timeout': {
    when: 'The handler did not settle in time, or the layer closed.',
    example: { afterMs: 300_000, reference: 'h4az8mnf' },
  },
  'callback.failed': {
    when: 'A function of the developer’s besides the handler threw.',
    example: { reference: 'h4az8mnf' },
  },
  'platform.forbidden': {
    when: 'Inside a handler, the platform refused the bot something.',
    example: { reference: 'h4az8mnf' },
  },
  'platform.gone': {
    when: 'Inside a handler, what it is about was not there any more.',
    example: { reference: 'h4az8mnf' },
  },
  'platform.unreachable': {
    when: 'Inside a handler, the platform did not answer.',
    example: { reference: 'h4az8mnf' },
  },
  'platform.slowed': {
    when: 'Inside a handler, the platform asked to slow down, for longer than was waited.',
    example: { reference: 'h4az8mnf' },
  },
  'platform.failed': { when: 'Inside a handler, the platform failed otherwise.', example: { reference: 'h4az8mnf' } },
};

export const codes = Object.keys(codeTable) as Code[];
export const languages: readonly Language[] = [english, polish(), japanese()];

export function said(language: Language, code: Code, parameters: unknown = codeTable[code].example): string {
  return messageIn(language.words, { code, parameters } as never);
}

/** The generated half of docs/replies.md. */
export function codeMarkdown(): string {
  return codes
    .map((code) => {
      const { visibleTo, expiresInMs } = manners[code];
      const goes = expiresInMs === undefined ? '' : `, goes after ${expiresInMs / 1000} s`;
      const parameters = Object.keys(codeTable[code].example).map((name) => `\`${name}\``);
      return [
        `### \`${code}\``,
        '',
        codeTable[code].when,
        '',
        `- Parameters: ${parameters.join(', ') || 'none'}`,
        `- Seen by: ${visibleTo === 'caller' ? 'the caller' : 'everyone'}${goes}`,
        ...languages.map((language) => `- ${language.locale}: ${said(language, code).replace(/\n/g, ' ')}`),
        '',
      ].join('\n');
    })
    .join('\n');
}
