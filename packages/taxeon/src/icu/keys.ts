/** What a message file may hold, and which parameters each of its messages has. */
import type { Code, CodeParameters } from '../contract/codes.js';
import type { AskingKey } from '../replies/language.js';

export type PhraseKey =
  | `reply.${'usage' | 'example' | 'quoted' | 'done' | 'answered' | 'quiet' | 'lowered' | 'read-as' | 'cut' | 'rest-apart' | 'crowded'}`
  | `help.${'commands' | 'aliases' | 'needs' | 'limit' | 'running' | 'page' | 'nothing-found' | 'nothing-to-run'}`;
/** What a command requires, as help tells it. */
export type RequirementKey =
  `requires.${'can' | 'bot-can' | 'holds' | 'owns-bot' | 'outranks' | 'bot-outranks' | 'target-can' | 'target-is-bot' | 'not'}`;
export type MissingKey = 'missing.permission' | 'missing.role' | 'missing.ownership';
/** What a kind of argument takes, by its name. */
export type ExpectedKey =
  `expected.${'word' | 'words' | 'integer' | 'number' | 'percent' | 'money' | 'attachment' | 'duration' | 'datetime' | 'length-order' | 'length-calendar' | 'day' | 'time' | 'skipped' | 'zone' | 'evening' | 'choice' | 'url' | 'list' | 'boolean' | 'emoji' | 'member' | 'mention' | 'user' | 'role' | 'channel'}`;
export type IcuKey = Code | PhraseKey | AskingKey | RequirementKey | MissingKey | ExpectedKey;

/** ICU MessageFormat by key, as it stands in a message file. */
export type IcuMessages = Readonly<Record<IcuKey, string>>;

const near = ['near', 'nearCount'] as const;
const range = ['bounds', 'min', 'max'] as const;

/** A code's own parameters, and what can be made of them. */
type Derived<C extends Code> = keyof CodeParameters[C] | `${string}Count` | 'retryAfter' | 'after';

const codes: { readonly [C in Code]: readonly Derived<C>[] } = {
  'command.unknown': ['name', 'because', 'help', ...near],
  'command.changed': ['name'],
  'command.unavailable': ['command', 'because', 'surface'],
  'place.wrong': ['command', 'allowed', 'atConsole'],
  'permission.caller': ['missing', 'denied'],
  'permission.bot': ['name'],
  'permission.rank': ['of', 'argument', 'who', 'because'],
  'permission.target': ['argument', 'who', 'because', 'permission'],
  'requirement.failed': ['argument', 'reason'],
  'argument.missing': ['argument', 'expected'],
  'argument.invalid': ['argument', 'read', 'expected', 'misfit', 'measure', ...near],
  'argument.ambiguous': ['argument', 'read', 'matches', 'matchesCount'],
  'argument.absent-member': ['argument', 'read'],
  'argument.extra': ['read', 'because', 'argument', 'expected'],
  'argument.unknown': ['name', ...near],
  'input.malformed': ['what'],
  'cooldown.active': ['counts', 'retryAfter', 'retryAfterMs', 'endsAt'],
  'running.full': ['counts', 'most'],
  'store.unavailable': ['reference'],
  'answer.none': ['asked', 'because'],
  'answer.stopped': ['asked'],
  'layer.closing': [],
  'handler.failed': ['reference'],
  'handler.timeout': ['after', 'afterMs', 'reference'],
  'callback.failed': ['reference'],
  'platform.forbidden': ['reference'],
  'platform.gone': ['reference'],
  'platform.unreachable': ['reference'],
  'platform.slowed': ['reference'],
  'platform.failed': ['reference'],
};

const rest: Readonly<Record<Exclude<IcuKey, Code>, readonly string[]>> = {
  'reply.usage': ['written'],
  'reply.example': ['written'],
  'reply.quoted': ['written'],
  'reply.done': [],
  'reply.answered': [],
  'reply.quiet': ['wait'],
  'reply.lowered': ['argument', 'to'],
  'reply.read-as': ['argument', 'read', 'as'],
  'reply.cut': [],
  'reply.rest-apart': [],
  'reply.crowded': [],
  'ask.argument': ['argument', 'expected'],
  'ask.how': ['example', 'wait', 'stop'],
  'ask.how-without': ['wait', 'stop'],
  'ask.decide': ['yes', 'no', 'wait'],
  'ask.undecided': ['read'],
  'ask.lost': [],
  'ask.stop': [],
  'ask.yes': [],
  'ask.no': [],
  'help.commands': [],
  'help.aliases': ['names'],
  'help.needs': ['needed'],
  'help.limit': ['uses', 'window', 'counts'],
  'help.running': ['uses', 'counts'],
  'help.page': ['page', 'pages', 'next'],
  'help.nothing-found': ['name', ...near],
  'help.nothing-to-run': [],
  'requires.can': ['permission'],
  'requires.bot-can': ['permission'],
  'requires.holds': ['role'],
  'requires.owns-bot': [],
  'requires.outranks': ['argument'],
  'requires.bot-outranks': ['argument'],
  'requires.target-can': ['argument', 'permission'],
  'requires.target-is-bot': ['argument'],
  'requires.not': ['needed'],
  'missing.permission': ['name', 'without'],
  'missing.role': ['name', 'without'],
  'missing.ownership': ['without'],
  'expected.word': range,
  'expected.words': range,
  'expected.integer': range,
  'expected.number': range,
  'expected.percent': range,
  'expected.money': [...range, 'currency'],
  'expected.attachment': ['max', 'typed', 'types'],
  'expected.duration': range,
  'expected.datetime': ['lower', 'upper', 'min', 'max'],
  'expected.length-order': [],
  'expected.length-calendar': [],
  'expected.day': [],
  'expected.time': [],
  'expected.skipped': [],
  'expected.zone': [],
  'expected.evening': [],
  'expected.choice': ['labels'],
  'expected.url': ['protocols'],
  'expected.list': ['count', 'min', 'max', 'each'],
  'expected.boolean': [],
  'expected.emoji': [],
  'expected.member': [],
  'expected.mention': [],
  'expected.user': [],
  'expected.role': [],
  'expected.channel': [],
};

/** Every key, with the names that its message may use. */
export const icuParameters: Readonly<Record<IcuKey, readonly string[]>> = { ...codes, ...rest };
