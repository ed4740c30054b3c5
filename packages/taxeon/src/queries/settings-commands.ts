/** Ready-made commands with which a guild's managers change its settings from the chat. */

import { CHANGING, type Decision, mayDecide } from '../access/may-decide.js';
import { calledName, echoText, foldName } from '../base/text.js';
import { type MaybePromise, textAtOnce } from '../base/thenable.js';
import { isTimeZone } from '../base/zone.js';
import { type Answer, type Call, refuse } from '../commands/call.js';
import { type Command, command } from '../commands/command.js';
import type { GroupDeclaration } from '../commands/group.js';
import { misread, type ReadingContext } from '../commands/kind.js';
import { boolean } from '../commands/kinds/boolean.js';
import { custom } from '../commands/kinds/custom.js';
import { plainly } from '../commands/kinds/expected.js';
import { named } from '../commands/kinds/named.js';
import { text } from '../commands/kinds/text.js';
import { keyOf } from '../contract/key.js';
import { guildOf } from '../contract/platform.js';
import type { AccessRule, GuildSettings, RuleSubject } from '../contract/settings.js';
import type { GuildSettingsBook } from '../guilds/book.js';
import { isSettingsError } from '../guilds/errors.js';
import { barredFrom } from '../pipeline/access.js';
import { list } from '../reading/kinds/list.js';
import {
  capital,
  describe,
  nameOfRole,
  type Subject,
  say,
  settingsInWords,
  settingsTexts,
  subjectIn,
} from './settings-words.js';

/** Who may change settings, and what the commands are called. */
export interface SettingsCommandsOptions {
  /** Who may change settings. */
  readonly requires: NonNullable<GroupDeclaration['requires']>;
  /** The heading under which help lists them. */
  readonly section?: string;
  /** Other names for the commands. */
  readonly names?: Partial<Readonly<Record<SettingsCommandName, string>>>;
}

type SettingsCommandName = 'settings' | 'grant' | 'deny' | 'forget' | 'switch' | 'prefix' | 'language' | 'time-zone';

const ruled = { grant: 'settings.granted', deny: 'settings.denied', forget: 'settings.forgotten' } as const;

/** In place of a language or a time zone: what a guild decided is taken back. */
const OWN = 'default';

/**
 * `settings`, `grant <command> <to>`, `deny <command> <to>`, `forget <command> <to>`, `switch <command> <on>`,
 * `prefix <prefixes…>`, `language <language>` and `time-zone <zone>`, in the reader's language. Nobody decides about people
 * and roles that do not rank below them, grants what they may not do by their own right, or locks themselves out; rules
 * about these commands themselves are for those who own the guild or the bot.
 *
 * @param book the same that `createCommandLayer` gets
 *
 * @example
 * const settings = guildSettings();
 * const managing = settingsCommands(settings, { requires: ({ caller }) => [caller.can('manage')] });
 * createCommandLayer({ commands: [borrow, ...managing], settings });
 */
export function settingsCommands(
  book: GuildSettingsBook,
  { requires, names = {}, section = 'Settings' }: SettingsCommandsOptions,
): readonly Command[] {
  const shared = { in: 'guild', requires, section } as const;
  const called = (own: SettingsCommandName, args: Parameters<typeof describe.command>[1] = {}) => ({
    name: names[own] ?? own,
    id: CHANGING + own,
    ...describe.command(own === 'settings' ? 'describe.settings' : `describe.settings.${own}`, args),
  });
  // Which commands, roles and people there are differs from bot to bot: no example would read in all of them.
  const which = { ...text(describe.argument('describe.settings.which')), example: undefined };
  const expected = plainly('subject', settingsTexts['expected.subject']);
  const subject = custom<Subject & Pick<Decision, 'about'>>({
    name: 'subject',
    expected: expected.english,
    example: 'everyone',
    read: readSubject,
  });
  const to = { ...subject, kind: { ...subject.kind, expected }, example: undefined };
  const aboutRule = { which: 'describe.settings.which', to: 'describe.settings.to' } as const;

  /** Changes the guild's settings, unless the caller could not change them back. */
  async function change(
    call: Call,
    changed: (settings: GuildSettings) => GuildSettings,
    body: string,
    mayDecide: (settings: GuildSettings) => boolean = () => true,
  ): Promise<Answer> {
    const guild = call.guild;
    if (guild === undefined) return undefined;
    const before = await book.load(keyOf(call.platform, guild.id));
    if (!mayDecide(before)) return refuseSettings('settings.not-yours', call);
    if (wouldLockOut(book, call, changed(before))) return refuseSettings('settings.lock-out', call);
    try {
      await book.change(keyOf(call.platform, guild.id), changed, call.caller);
    } catch (error) {
      if (isSettingsError(error)) return refuse('settings.wrong', error.message);
      throw error;
    }
    return { tone: 'success', body };
  }

  /** A decision about a command, a group or a section. */
  function decide(
    call: Call,
    which: string,
    decision: Decision,
    changed: (settings: GuildSettings, id: string) => GuildSettings,
    told: (name: string) => string,
  ): MaybePromise<Answer> {
    const found = book.findCommand(which);
    if (found === undefined) return refuseSettings('settings.unknown-command', call);
    const { id, name } = found;
    return change(
      call,
      (settings) => changed(settings, id),
      told(name),
      (settings) => {
        const { commands, viewer } = book.seenUnder(call, settings);
        const governed = commands.filter(({ ids }) => ids.includes(id));
        return mayDecide(decision, governed, viewer);
      },
    );
  }

  function rule(verdict: keyof typeof ruled) {
    return command({
      ...shared,
      ...called(verdict, aboutRule),
      args: { which, to },
      run(call) {
        const { words, args } = call;
        const { rule, about } = args.to;
        return decide(
          call,
          args.which,
          { verdict, about },
          (settings, id) => {
            const others = without(settings, id, rule);
            return verdict === 'forget' ? others : withRule(others, { command: id, verdict, ...rule });
          },
          (command) => capital(say(words, ruled[verdict], { who: subjectIn(words, args.to), command })),
        );
      },
    });
  }

  /** One that is chosen by name, or taken back. */
  function choosing(own: 'language' | 'time-zone', field: 'locale' | 'timeZone', choices: Choices) {
    const { named, most, example, all, find } = choices;
    const key = `describe.settings.which-${own}` as const;
    return command({
      ...shared,
      ...called(own, { [named]: key }),
      args: { [named]: text({ ...describe.argument(key), max: most, example, complete: () => [...all(), OWN] }) },
      run(call) {
        const { words, args } = call;
        const typed = String(args[named]);
        const chosen = typed === OWN ? undefined : find(typed);
        if (chosen === undefined && typed !== OWN) {
          const values = { read: echoText(typed), languages: words.list(book.locales(), 'and') };
          return refuse(`settings.unknown-${own}`, say(words, `settings.unknown-${own}`, values));
        }
        const changed = ({ [field]: _, ...rest }: GuildSettings): GuildSettings =>
          chosen === undefined ? rest : { ...rest, [field]: chosen };
        const told =
          chosen === undefined
            ? say(words, `settings.own-${own}`)
            : say(words, `settings.${own}`, { language: chosen, timeZone: chosen });
        return change(call, changed, told);
      },
    });
  }

  return [
    command({
      ...shared,
      ...called('settings'),
      async run({ guild, platform, words }) {
        return {
          tone: 'info',
          heading: say(words, 'settings.heading', { guild: calledName(guild) }),
          body: settingsInWords(await book.load(keyOf(platform, guild.id)), words),
        };
      },
    }),
    rule('grant'),
    rule('deny'),
    rule('forget'),
    command({
      ...shared,
      ...called('switch', { which: 'describe.settings.which', on: 'describe.settings.on' }),
      args: { which, on: boolean(describe.argument('describe.settings.on')) },
      run(call) {
        const { words, args } = call;
        return decide(
          call,
          args.which,
          { verdict: 'switch', about: undefined },
          (settings, id) => {
            const off = (settings.off ?? []).filter((one) => one !== id);
            return { ...settings, off: args.on ? off : [...off, id] };
          },
          (name) => say(words, args.on ? 'settings.on' : 'settings.off', { command: name }),
        );
      },
    }),
    command({
      ...shared,
      ...called('prefix', { prefixes: 'describe.settings.prefixes' }),
      args: { prefixes: list(text({ max: 10 }), { ...describe.argument('describe.settings.prefixes'), max: 5 }) },
      run(call) {
        const { words, args } = call;
        const prefixes = words.list(args.prefixes, 'or');
        return change(
          call,
          (settings) => ({ ...settings, prefixes: args.prefixes }),
          say(words, 'settings.prefixes', { prefixes }),
        );
      },
    }),
    choosing('language', 'locale', {
      named: 'language',
      most: 40,
      example: 'en',
      all: () => book.locales(),
      find: (typed) => book.locales().find((one) => foldName(one) === foldName(typed)),
    }),
    choosing('time-zone', 'timeZone', {
      named: 'zone',
      most: 60,
      example: 'Europe/London',
      all: () => Intl.supportedValuesOf?.('timeZone') ?? [],
      find: (typed) => (isTimeZone(typed) ? typed : undefined),
    }),
  ];
}

interface Choices {
  /** The argument's name. */
  readonly named: string;
  /** The longest name, in characters. */
  readonly most: number;
  readonly example: string;
  all(): readonly string[];
  find(typed: string): string | undefined;
}

function refuseSettings(key: 'settings.not-yours' | 'settings.lock-out' | 'settings.unknown-command', { words }: Call) {
  return refuse(key, say(words, key));
}

/** Whether the caller could no longer make the same call. */
function wouldLockOut(book: GuildSettingsBook, call: Call, settings: GuildSettings): boolean {
  const { commands, viewer } = book.seenUnder(call, settings);
  const command = commands.find(({ name }) => name === call.command);
  return command === undefined || barredFrom(command, viewer) !== undefined;
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
  const roleId = textAtOnce(directory.mentioned(typed, 'role'));
  const role = (await directory.roles(guild)).find(
    ({ id, name }) => id === roleId || foldName(name) === foldName(typed),
  );
  if (role !== undefined) return { rule: { role: role.id }, name: calledName(role), about: role };
  const channel = named(typed, await directory.channels(guild));
  if (channel !== undefined && 'name' in channel)
    return { rule: { channel: channel.id }, name: calledName(channel), about: undefined };
  const id = textAtOnce(directory.mentioned(typed, 'person')) ?? typed;
  const member = (await directory.member(guild, id)) ?? named(typed, await directory.membersNamed(guild, typed));
  if (member === undefined) return misread();
  return 'name' in member ? { rule: { member: member.id }, name: calledName(member), about: member } : member;
}
