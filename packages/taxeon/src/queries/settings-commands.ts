/** Ready-made commands with which a guild's managers change its settings from the chat. */

import { calledName, echo, foldName } from '../base/text.js';
import type { ArgMap } from '../commands/arg.js';
import { type Answer, type Call, refuse } from '../commands/call.js';
import { type Command, command } from '../commands/command.js';
import { misread, type ReadingContext } from '../commands/kind.js';
import { boolean } from '../commands/kinds/boolean.js';
import { custom } from '../commands/kinds/custom.js';
import { pickNamed } from '../commands/kinds/named.js';
import { text } from '../commands/kinds/text.js';
import type { Requirement, RequirementBuilder } from '../commands/requirements.js';
import { keyOf } from '../contract/key.js';
import type { Notice } from '../contract/notice.js';
import { guildOf } from '../contract/platform.js';
import type { AccessRule, GuildSettings, RoleSubject, RuleSubject } from '../contract/settings.js';
import type { GuildSettingsBook } from '../guilds/book.js';
import { isSettingsError } from '../guilds/errors.js';
import { list } from '../reading/kinds/list.js';

export interface SettingsCommandsOptions {
  /** Who may change settings. */
  readonly requires: (builder: ManagerBuilder) => readonly Requirement[];
  /** The heading under which help lists them. */
  readonly section?: string;
  /** Other names for the commands. */
  readonly names?: Partial<Readonly<Record<SettingsCommandName, string>>>;
}

type AnyBuilder = RequirementBuilder<ArgMap>;

/** What is asked of a manager is asked of the caller alone. */
export interface ManagerBuilder extends Pick<AnyBuilder, 'allOf' | 'anyOf' | 'not'> {
  readonly caller: Pick<AnyBuilder['caller'], 'can' | 'holds' | 'ownsBot'>;
}

type SettingsCommandName = 'settings' | 'grant' | 'deny' | 'forget' | 'switch' | 'prefix';

/** Somebody or something that a rule can be about, with the name to tell it by. */
interface Subject {
  readonly rule: RuleSubject;
  readonly name: string;
}

/**
 * `settings`, `grant <command> <to>`, `deny <command> <to>`, `forget <command> <to>`, `switch <command> <on>`
 * and `prefix <prefixes…>`. A change that would lock the one who makes it out of them is refused.
 *
 * @param book the same that `createCommandLayer` gets
 *
 * @example
 * const settings = guildSettings();
 * const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
 * createCommandLayer({ commands: [...mine, ...managing], settings });
 */
export function settingsCommands(
  book: GuildSettingsBook,
  { requires, names = {}, section = 'Settings' }: SettingsCommandsOptions,
): readonly Command[] {
  const shared = { in: 'guild', requires, section } as const;
  const name = (own: SettingsCommandName) => ({ name: names[own] ?? own, id: `settings.${own}` });
  const which = text({ description: 'Which command', example: 'fine' });
  const to = custom<Subject>({
    name: 'subject',
    expected: 'a role, a person or a channel here',
    example: 'steward',
    read: readSubject,
  });

  /** Changes the guild's settings, unless the caller could not change them back. */
  async function change(
    call: Call,
    changed: (settings: GuildSettings) => GuildSettings,
    done: Notice,
  ): Promise<Answer> {
    const guild = call.guild;
    if (guild === undefined) return undefined;
    const locked = book.wouldLockOut(call, changed(await book.load(keyOf(call.platform, guild.id))));
    if (locked)
      return refuse('settings.lock-out', 'That would lock you out of these settings, so I leave them as they are.');
    try {
      await book.change(keyOf(call.platform, guild.id), changed, call.caller);
    } catch (error) {
      if (isSettingsError(error)) return refuse('settings.wrong', error.message);
      throw error;
    }
    return done;
  }

  function rule(verdict: AccessRule['verdict']) {
    const verb = verdict === 'grant' ? 'may' : 'may not';
    return command({
      ...shared,
      ...name(verdict),
      description: verdict === 'grant' ? 'Let somebody use a command here' : 'Keep somebody from a command here',
      args: { which, to },
      run(call) {
        const { args } = call;
        const found = book.findCommand(args.which);
        if (found === undefined) return unknownCommand();
        const added = (settings: GuildSettings) =>
          withRule(without(settings, found.id, args.to.rule), { command: found.id, verdict, ...args.to.rule });
        return change(call, added, {
          tone: 'success',
          body: `${capital(args.to.name)} ${verb} use ${found.name} here.`,
        });
      },
    });
  }

  return [
    command({
      ...shared,
      ...name('settings'),
      description: 'See what is decided here',
      async run({ guild, platform }) {
        return {
          tone: 'info',
          heading: `Settings of ${calledName(guild)}`,
          body: inWords(await book.load(keyOf(platform, guild.id))),
        };
      },
    }),
    rule('grant'),
    rule('deny'),
    command({
      ...shared,
      ...name('forget'),
      description: 'Take a grant or a denial back',
      args: { which, to },
      run(call) {
        const { args } = call;
        const found = book.findCommand(args.which);
        if (found === undefined) return unknownCommand();
        const body = `Nothing is said of ${args.to.name} and ${found.name} any more.`;
        return change(call, (settings) => without(settings, found.id, args.to.rule), { tone: 'success', body });
      },
    }),
    command({
      ...shared,
      ...name('switch'),
      description: 'Switch a command on or off here',
      args: { which, on: boolean({ description: 'Whether it works' }) },
      run(call) {
        const { args } = call;
        const found = book.findCommand(args.which);
        if (found === undefined) return unknownCommand();
        const switched = (settings: GuildSettings): GuildSettings => {
          const off = (settings.off ?? []).filter((id) => id !== found.id);
          return { ...settings, off: args.on ? off : [...off, found.id] };
        };
        return change(call, switched, { tone: 'success', body: `${found.name} is ${args.on ? 'on' : 'off'}.` });
      },
    }),
    command({
      ...shared,
      ...name('prefix'),
      description: 'Choose what a command begins with here',
      args: { prefixes: list(text({ max: 10 }), { description: 'One or several', max: 5 }) },
      run(call) {
        const { args } = call;
        const body = `Commands begin with ${args.prefixes.join(' or ')} here.`;
        return change(call, (settings) => ({ ...settings, prefixes: args.prefixes }), { tone: 'success', body });
      },
    }),
  ];
}

function unknownCommand() {
  return refuse('settings.unknown-command', 'There is no such command.');
}

function withRule(settings: GuildSettings, rule: AccessRule): GuildSettings {
  return { ...settings, rules: [...(settings.rules ?? []), rule] };
}

function without(settings: GuildSettings, command: string, { member, role, channel }: RuleSubject): GuildSettings {
  const isSame = (rule: AccessRule) =>
    rule.command === command &&
    rule.member === member &&
    rule.channel === channel &&
    nameOfRole(rule.role) === nameOfRole(role);
  return { ...settings, rules: (settings.rules ?? []).filter((rule) => !isSame(rule)) };
}

/** Roles first, since most rules are about them; then channels, then people. */
async function readSubject(typed: string, { platform, place }: ReadingContext) {
  const guild = guildOf(place);
  if (platform === undefined || guild === undefined) return undefined;
  const { directory } = platform;
  const roleId = directory.mentioned(typed, 'role');
  const role = (await directory.roles(guild)).find(
    ({ id, name }) => id === roleId || foldName(name) === foldName(typed),
  );
  if (role !== undefined) return { rule: { role: role.id }, name: `the role ${calledName(role)}` };
  const channel = pickNamed(typed, await directory.channels(guild), 'exact');
  if (channel !== undefined && 'name' in channel)
    return { rule: { channel: channel.id }, name: `the channel ${calledName(channel)}` };
  const id = directory.mentioned(typed, 'person') ?? typed;
  const member =
    (await directory.member(guild, id)) ?? pickNamed(typed, await directory.membersNamed(guild, typed), 'exact');
  if (member === undefined) return misread();
  return 'name' in member ? { rule: { member: member.id }, name: calledName(member) } : member;
}

function inWords({ prefixes, locale, timeZone, off = [], roles = {}, rules = [] }: GuildSettings): string {
  const lines: string[] = [];
  if (prefixes !== undefined) lines.push(`Commands begin with ${prefixes.join(' or ')}.`);
  if (locale !== undefined) lines.push(`The language is ${locale}.`);
  if (timeZone !== undefined) lines.push(`The time zone is ${timeZone}.`);
  if (off.length > 0) lines.push(`Switched off: ${off.join(', ')}.`);
  for (const [own, here] of Object.entries(roles)) lines.push(`${own} is called ${echo(nameOfRole(here) ?? '')} here.`);
  for (const { command, verdict, ...subject } of rules) {
    const [what, who] = Object.entries(subject)[0] ?? ['', ''];
    lines.push(`The ${what} ${echo(nameOfRole(who) ?? '')} ${verdict === 'grant' ? 'may' : 'may not'} use ${command}.`);
  }
  return lines.length === 0 ? 'Nothing is decided here.' : lines.join('\n');
}

/** A role that was named by hand, too. */
function nameOfRole(role: RoleSubject | undefined): string | undefined {
  return typeof role === 'object' ? role.name : role;
}

function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}
