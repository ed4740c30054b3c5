/** What the settings commands say. */
import { echoText } from '../base/text.js';
import type { GuildSettings, RoleSubject, RuleSubject } from '../contract/settings.js';
import type { Words } from '../contract/words.js';
import { type Sayer, sayer } from '../replies/texts.js';
import { describer } from './described.js';

/** A person or a place that a rule can be about, with the name to tell it by. */
export interface Subject {
  readonly rule: RuleSubject;
  readonly name: string;
}

export const settingsTexts = {
  'settings.heading': 'Settings of {guild}',
  'settings.none': 'Nothing is decided here.',
  'settings.lock-out': 'That would lock you out of these settings, so I leave them as they are.',
  'settings.not-yours': 'You can decide only about those below you, and give only what you may use.',
  'settings.unknown-command': 'There is no such command.',
  'settings.role': 'the role {name}',
  'settings.channel': 'the channel {name}',
  'settings.granted': '{who} may use {command} here.',
  'settings.denied': '{who} may not use {command} here.',
  'settings.forgotten': 'Nothing is said of {who} and {command} any more.',
  'settings.on': '{command} is on.',
  'settings.off': '{command} is off.',
  'settings.prefixes': 'Commands begin with {prefixes} here.',
  'settings.language': 'The language is {language} here.',
  'settings.own-language': 'The language is each person’s own here, or the bot’s.',
  'settings.unknown-language': 'I do not know the language “{read}”. There are {languages}.',
  'settings.time-zone': 'The time zone is {timeZone} here.',
  'settings.own-time-zone': 'The time zone is the bot’s here.',
  'settings.unknown-time-zone': 'I do not know the time zone “{read}”. Write it as Europe/London.',
  'settings.switched-off': 'Switched off: {commands}.',
  'settings.called': '{own} is called {here} here.',
  'expected.subject': 'a role, a person or a channel here',
  'describe.settings': 'See what is decided here',
  'describe.settings.grant': 'Let people use a command here',
  'describe.settings.deny': 'Keep people from a command here',
  'describe.settings.forget': 'Take a grant or a denial back',
  'describe.settings.switch': 'Switch a command on or off here',
  'describe.settings.prefix': 'Choose what a command begins with here',
  'describe.settings.language': 'Choose the language here',
  'describe.settings.time-zone': 'Choose in which time zone times are read and told here',
  'describe.settings.which': 'Which command',
  'describe.settings.to': 'A role, a person or a channel here',
  'describe.settings.on': 'Whether it works',
  'describe.settings.prefixes': 'One or several',
  'describe.settings.which-language': 'One that I speak, or “default”',
  'describe.settings.which-time-zone': 'A name such as Europe/London, or “default”',
} as const;

export const say: Sayer<typeof settingsTexts> = sayer(settingsTexts);
export const describe = describer(settingsTexts);

/** `the role steward`, `Wren`. */
export function subjectIn(words: Words, { rule, name }: Subject): string {
  if (rule.role !== undefined) return say(words, 'settings.role', { name });
  return rule.channel === undefined ? name : say(words, 'settings.channel', { name });
}

export function settingsInWords(settings: GuildSettings, words: Words): string {
  const { prefixes, locale, timeZone, off = [], roles = {}, rules = [] } = settings;
  const lines: string[] = [];
  if (prefixes !== undefined) lines.push(say(words, 'settings.prefixes', { prefixes: words.list(prefixes, 'or') }));
  if (locale !== undefined) lines.push(say(words, 'settings.language', { language: locale }));
  if (timeZone !== undefined) lines.push(say(words, 'settings.time-zone', { timeZone }));
  if (off.length > 0) lines.push(say(words, 'settings.switched-off', { commands: off.join(', ') }));
  for (const [own, here] of Object.entries(roles))
    lines.push(say(words, 'settings.called', { own, here: echoText(nameOfRole(here) ?? '') }));
  for (const { command, verdict, ...rule } of rules) {
    const name = echoText(nameOfRole(rule.role ?? rule.channel ?? rule.member) ?? '');
    const values = { who: subjectIn(words, { rule, name }), command };
    lines.push(capital(say(words, verdict === 'grant' ? 'settings.granted' : 'settings.denied', values)));
  }
  return lines.length === 0 ? say(words, 'settings.none') : lines.join('\n');
}

/** A role that was named by hand, too. */
export function nameOfRole(role: RoleSubject | undefined): string | undefined {
  return typeof role === 'object' ? role.name : role;
}

export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
