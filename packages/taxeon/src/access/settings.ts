/** Reading guild settings, which may come from anywhere. */
import { isRecord } from '../base/fields.js';
import { isLocale } from '../base/locale.js';
import { isTimeZone } from '../base/zone.js';
import type { GuildSettings, RoleSubject } from '../contract/settings.js';

export interface CheckedSettings {
  /** What is right in the data. */
  readonly settings: GuildSettings;
  /** What is not, and was left out. */
  readonly problems: readonly string[];
}

/** Takes what is right of data from a file or a store; a broken part is told and ignored, never fatal. */
export function checkSettings(data: unknown): CheckedSettings {
  if (!isRecord(data)) {
    return { settings: {}, problems: ['the settings are no object'] };
  }
  const problems: string[] = [];
  const settings: Record<string, unknown> = {};
  for (const [name, value] of Object.entries(data)) {
    const check = Object.hasOwn(checks, name) ? checks[name as keyof GuildSettings] : undefined;
    if (check === undefined) problems.push(`${name}: there is no such setting`);
    else if (value !== undefined) settings[name] = check(value, (problem) => problems.push(`${name}: ${problem}`));
    if (settings[name] === undefined) delete settings[name];
  }
  return { settings, problems };
}

type TellProblem = (problem: string) => void;

const checks: {
  readonly [Name in keyof Required<GuildSettings>]: (value: unknown, tell: TellProblem) => GuildSettings[Name];
} = {
  prefixes: (value, tell) =>
    texts(value, tell, (text) => text !== '' && text === text.trim(), 'a prefix without space around it'),
  locale: (value, tell) => oneText(value, tell, isLocale, 'a locale such as en-GB'),
  timeZone: (value, tell) => oneText(value, tell, isTimeZone, 'a time zone such as Europe/London'),
  off: (value, tell) => texts(value, tell, (text) => text !== '', 'the id of a command or group'),
  roles(value, tell) {
    if (!isRecord(value)) return void tell('give an object');
    const entries = Object.entries(value).filter((entry): entry is [string, RoleSubject] => {
      if (!isRoleSubject(entry[1])) tell(`${entry[0]}: ${GIVE_ROLE}`);
      return isRoleSubject(entry[1]);
    });
    return Object.fromEntries(entries);
  },
  rules(value, tell) {
    if (!Array.isArray(value)) return void tell('give a list');
    return value.filter((rule, index) => {
      const problem = ruleProblem(rule);
      if (problem !== undefined) tell(`${index}: ${problem}`);
      return problem === undefined;
    });
  },
};

function texts(
  value: unknown,
  tell: TellProblem,
  isRight: (text: string) => boolean,
  what: string,
): string[] | undefined {
  if (!Array.isArray(value)) return void tell('give a list');
  return value.filter((text, index) => {
    const isOne = typeof text === 'string' && isRight(text);
    if (!isOne) tell(`${index}: give ${what}`);
    return isOne;
  });
}

function oneText(
  value: unknown,
  tell: TellProblem,
  isRight: (text: string) => boolean,
  what: string,
): string | undefined {
  if (typeof value === 'string' && isRight(value)) return value;
  return void tell(`give ${what}`);
}

const subjects = ['member', 'role', 'channel'] as const;

function ruleProblem(rule: unknown): string | undefined {
  if (typeof rule !== 'object' || rule === null) return 'give an object';
  const { command, verdict, ...subject } = rule as Record<string, unknown>;
  if (typeof command !== 'string' || command === '') return 'name a command';
  if (verdict !== 'grant' && verdict !== 'deny') return "give the verdict 'grant' or 'deny'";
  const named = Object.entries(subject);
  const [first] = named;
  if (named.length !== 1 || first === undefined || !subjects.includes(first[0] as (typeof subjects)[number])) {
    return 'name one member, role or channel';
  }
  if (first[0] === 'role') return isRoleSubject(first[1]) ? undefined : GIVE_ROLE;
  return isFilledText(first[1]) ? undefined : `give the ${first[0]} by id`;
}

const GIVE_ROLE = 'give the id of a role, or { name }';

function isFilledText(value: unknown): value is string {
  return typeof value === 'string' && value !== '';
}

function isRoleSubject(value: unknown): value is RoleSubject {
  if (typeof value !== 'object' || value === null) return isFilledText(value);
  const names = Object.keys(value);
  return names.length === 1 && names[0] === 'name' && isFilledText((value as { readonly name: unknown }).name);
}
