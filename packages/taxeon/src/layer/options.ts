/** What a layer is made with, and what can be wrong with it. */
import type { ActorRights } from '../access/context.js';
import { type Allowance, parseAllowance } from '../base/allowance.js';
import {
  aDuration,
  aFlag,
  aFunction,
  aList,
  anObject,
  anything,
  aText,
  checkFields,
  eachOf,
  type Fields,
  oneOf,
  shown,
  texts,
} from '../base/fields.js';
import type { Clock, Duration } from '../base/time.js';
import { isTimeZone } from '../base/zone.js';
import { checkScope } from '../catalogue/check.js';
import { checkSaid, within } from '../catalogue/fields.js';
import type { DeclarationProblem } from '../catalogue/problem.js';
import type { AroundHook, RefusalHook } from '../commands/call.js';
import type { Scope } from '../commands/command.js';
import type { OutagePolicy } from '../commands/cooldowns.js';
import type { Manners, MessageOverrides } from '../contract/codes.js';
import { isKey, type Key } from '../contract/key.js';
import type { Log } from '../contract/log.js';
import type { Store } from '../contract/store.js';
import type { GuildSettingsBook } from '../guilds/book.js';
import type { countUsage } from '../observe/usage.js';
import type { AskingFor } from '../pipeline/asking/open-question.js';
import type { UnknownHook } from '../pipeline/resolve.js';
import { english } from '../replies/english.js';
import { type Language, languageFinder } from '../replies/language.js';
import type { CommandsOf } from './command-layer.js';

/** How many refusals a person is told on text, in one place; beyond that the bot says once that it goes quiet, and does. */
export interface DampingOptions {
  /** Of the same refusal: code, command and argument, whatever the value; `'5 in 30s'` by default. */
  readonly repeats?: Allowance;
  /** Of all refusals; `'20 in 1m'` by default. */
  readonly all?: Allowance;
  /** A person who has this permission is always answered, as the bot's owners are. */
  readonly always?: string;
}

/** How a layer is made. */
export interface LayerOptions {
  /** Commands and groups; or a function of the layer that gives them, so that they reach queries through it. */
  readonly commands: CommandsOf;
  /** What a command in a message begins with. Without one, text is all chat. */
  readonly prefixes?: readonly string[];
  /** Whether mentioning the bot is a prefix, too; yes by default. */
  readonly mentionIsPrefix?: boolean;
  /** Whether a direct message needs a prefix; `'required'` by default. */
  readonly prefixInDirect?: 'required' | 'optional';
  /**
   * For how long a message that did not read may be corrected by editing it: it is read again, and its reply is changed.
   * Not at all by default. The platform has to tell of edits.
   */
  readonly edits?: Duration;
  /**
   * Where an event is recognised that the platform delivers a second time: in this process's `'memory'` by default, or
   * also in the `'store'`, where several processes may be handed the same; that asks the store once for each call.
   */
  readonly repeats?: 'memory' | 'store';
  /** In which dates and times are read; an IANA name, `'UTC'` by default. */
  readonly timeZone?: string;
  /** How long a resolver, a default or a condition of yours may take to settle; 10 s by default. */
  readonly patience?: Duration;
  /** What guilds decide, made with `guildSettings`. Without it they decide nothing. */
  readonly settings?: GuildSettingsBook;
  /** What each of the bot's own roles may do, besides what the platform allows: `{ steward: ['fine'] }`. */
  readonly roles?: Readonly<Record<string, readonly string[]>>;
  /** The bot's owners: `irc/odalys`. They pass what is made of `can` and `holds` alone; never rank, bot, target, place or limits. */
  readonly owners?: readonly Key[];
  /** Languages besides English; `@taxeon/icu` has some. */
  readonly languages?: readonly Language[];
  /** The language where the caller's and the guild's are not there; `'en'` by default. */
  readonly locale?: string;
  /** Own words for codes, in place of every language's. */
  readonly messages?: MessageOverrides;
  /** What `askInChat` of `taxeon/asking` gives, where the bot is to ask for what is missing. */
  readonly asking?: AskingFor;
  /** Who sees what is said for a code, and for how long; codes of the bot's own too. */
  readonly manners?: Manners;
  /** How long a handler may take whose command does not say; 10 min by default. */
  readonly timeout?: Duration;
  /** `countUsage`, where uses are to be counted in the store by command, outcome, guild and day. */
  readonly usage?: typeof countUsage;
  /** Sets of guilds by name, for `scope`: `{ staging: ['stand-in/workbench'] }`. */
  readonly scopes?: Readonly<Record<string, readonly Key[]>>;
  /** Where commands are registered that do not say; `'everywhere'` by default. */
  readonly scope?: Scope;
  /** Runs around every handler. */
  readonly around?: AroundHook;
  /** Answers for names that no command has, from the bot's own data. */
  readonly onUnknown?: UnknownHook;
  /** Called for every input that does not complete; what it gives is said in place of the catalogue's notice. */
  readonly onRefusal?: RefusalHook;
  /** What the console may do; nothing by default. */
  readonly console?: ActorRights;
  /** What the bot's own code may do through `invoke`; nothing by default. */
  readonly program?: ActorRights;
  /** What is done while the store does not answer: `'refuse'` by default, or `'allow'` without counting. */
  readonly outage?: OutagePolicy;
  /** How long the store may take; 2 s by default. */
  readonly storePatience?: Duration;
  /**
   * How long a platform may take for one thing; 15 s by default, and never more than half of its reply deadline. What
   * is given up may have been done.
   */
  readonly platformPatience?: Duration;
  /** After how long a running call no longer counts, should its process have died; 10 min by default. */
  readonly lease?: Duration;
  /** How often a person is told the same refusal on text, in one place, or more of it; `'5 in 30s'` by default. */
  readonly damping?: Allowance | 'off' | DampingOptions;
  /** Where uses, settings and counts are remembered; this process's memory by default. */
  readonly store?: Store;
  readonly clock?: Clock;
  readonly log?: Log;
  /** Makes the short reference under which a failure stands in the log. */
  readonly reference?: () => string;
}

const aLog = (value: unknown) =>
  typeof (value as Log).error === 'function' && typeof (value as Log).warn === 'function'
    ? undefined
    : 'a log with `error` and `warn`';

const fields: Fields<LayerOptions> = {
  commands: anything,
  prefixes: texts,
  mentionIsPrefix: aFlag,
  prefixInDirect: oneOf('required', 'optional'),
  edits: aDuration,
  repeats: oneOf('memory', 'store'),
  timeZone: aText,
  patience: aDuration,
  settings: (value) =>
    typeof (value as GuildSettingsBook).known === 'function' ? undefined : 'what `guildSettings` gives',
  roles: eachOf(texts, 'a list of permissions by role'),
  owners: aList,
  languages: (value) =>
    Array.isArray(value) && value.every((one) => typeof one?.locale === 'string' && typeof one.words === 'object')
      ? undefined
      : 'a list of languages such as `polish()`',
  locale: aText,
  messages: anObject,
  manners: anObject,
  asking: (value) => (typeof value === 'function' ? undefined : 'what `askInChat` gives'),
  timeout: aDuration,
  usage: (value) => (typeof value === 'function' ? undefined : '`countUsage`'),
  scopes: eachOf(aList, 'a list of guilds by name'),
  scope: anything,
  around: aFunction,
  onUnknown: aFunction,
  onRefusal: aFunction,
  console: anObject,
  program: anObject,
  outage: oneOf('refuse', 'allow'),
  storePatience: aDuration,
  platformPatience: aDuration,
  lease: aDuration,
  damping: anything,
  store: (value) => (typeof (value as Store).acquire === 'function' ? undefined : 'a store, as `memoryStore()` gives'),
  clock: (value) => (typeof (value as Clock).now === 'function' ? undefined : 'a clock with `now`'),
  log: aLog,
  reference: aFunction,
};

const rightFields: Fields<ActorRights> = {
  can: (value) => (value === 'everything' ? undefined : texts(value)),
  holds: texts,
  outranks: oneOf('everyone'),
  ownsBot: aFlag,
};

const anAllowance = (value: unknown) => (parseAllowance(value as Allowance) === undefined ? "'5 in 30s'" : undefined);

const dampingFields: Fields<DampingOptions> = { repeats: anAllowance, all: anAllowance, always: aText };

export function optionProblems(declared: LayerOptions): DeclarationProblem[] {
  const problems: DeclarationProblem[] = [];
  const tell = (field: string, problem: string) => void problems.push({ command: '(layer)', field, problem });
  const wrong = new Set<string>();
  checkFields(declared, fields, (field, problem) => {
    wrong.add(field);
    tell(field, problem);
  });
  if (wrong.has('')) return problems;
  // What is of another form has been told, and is looked at no more.
  const options = Object.fromEntries(
    Object.entries(declared).filter(([name]) => !wrong.has(name)),
  ) as Partial<LayerOptions>;
  const { console = {}, program = {} } = options;
  checkFields(console, rightFields, within('console', tell));
  checkFields(program, rightFields, within('program', tell));
  checkSaid(options, tell);
  for (const prefix of options.prefixes ?? []) {
    if (prefix === '' || prefix !== prefix.trim())
      tell('prefixes', `${JSON.stringify(prefix)} is empty or has space around it; trim it`);
  }
  keyProblems('owners', options.owners, tell);
  for (const [name, guilds] of Object.entries(options.scopes ?? {})) {
    keyProblems(`scopes.${name}`, guilds, tell);
    if (name === 'everywhere') tell('scopes', 'everywhere is taken; name the set otherwise');
  }
  checkScope(options.scope, options.scopes ?? {}, tell);
  if (options.timeZone !== undefined && !isTimeZone(options.timeZone)) {
    tell('timeZone', `${JSON.stringify(options.timeZone)} is no time zone; give a name such as 'Europe/London'`);
  }
  if (options.locale !== undefined && languageFinder(options.languages ?? [], english)(options.locale) === undefined) {
    tell('locale', `there is no language ${JSON.stringify(options.locale)}; give it in \`languages\``);
  }
  const { damping } = options;
  if (typeof damping === 'object') checkFields(damping, dampingFields, within('damping', tell));
  else if (damping !== undefined && damping !== 'off' && parseAllowance(damping) === undefined) {
    tell('damping', `${shown(damping)} does not read; write '5 in 30s' or 'off'`);
  }
  return problems;
}

function keyProblems(
  field: string,
  keys: readonly unknown[] = [],
  tell: (field: string, problem: string) => void,
): void {
  for (const key of keys) {
    if (!isKey(key)) tell(field, `${shown(key)} names no platform; write it as "irc/odalys"`);
  }
}
