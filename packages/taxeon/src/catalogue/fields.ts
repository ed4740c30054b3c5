/** The fields of declarations, with the form of each. */
import {
  aDuration,
  aFlag,
  aFunction,
  aList,
  anObject,
  anything,
  aSaidText,
  aText,
  aTextOrFunction,
  checkFields,
  eachOf,
  type FieldForm,
  type Fields,
  isRecord,
  oneOf,
  type TellField,
  texts,
} from '../base/fields.js';
import { nearNames } from '../base/near.js';
import { aWhenMissing, isArg } from '../commands/arg.js';
import type { AnyDeclaration, Localized } from '../commands/command.js';
import type { CooldownOptions } from '../commands/cooldowns.js';
import type { GroupDeclaration } from '../commands/group.js';
import type { ArgumentMessages, MannerOptions } from '../contract/codes.js';
import { manners } from '../replies/manners.js';

const localizedFields: Fields<Localized> = {
  name: aSaidText,
  description: aSaidText,
  args: eachOf(aSaidText, 'texts by argument'),
};

export const aLocalized = (value: unknown) =>
  checkFields(value, localizedFields, () => undefined) ? undefined : 'a name, a description and args';

const shared: Fields<Omit<GroupDeclaration, 'commands'>> = {
  name: aText,
  aliases: texts,
  description: aText,
  id: aText,
  in: oneOf('guild', 'direct', 'anywhere'),
  surfaces: aList,
  requires: aFunction,
  cooldowns: (value) => (isRecord(value) ? undefined : "an object such as { user: '1m' }"),
  running: anObject,
  messages: anObject,
  manners: anObject,
  whenMissing: aWhenMissing,
  scope: anything,
  localized: (value) =>
    typeof value === 'function' ? undefined : eachOf(aLocalized, 'a name, a description and args by locale')(value),
  section: aText,
  module: aText,
  around: aFunction,
  onRefusal: aFunction,
};

const ofCommand: Fields<AnyDeclaration> = {
  ...shared,
  args: (value) => (isRecord(value) ? undefined : 'an object such as { tool: arg.text() }'),
  together: aFunction,
  confirm: (value) => (typeof value === 'string' ? undefined : aFunction(value)),
  visibleTo: oneOf('everyone', 'caller', 'caller-if-possible'),
  timeout: aDuration,
  examples: texts,
  isHelp: aFlag,
  run: aFunction,
};

const ofGroup: Fields<GroupDeclaration> = { ...shared, commands: aList };

const ofCooldown: Fields<CooldownOptions> = {
  allow: anything,
  shared: aText,
  exempt: aFunction,
  charge: oneOf('always', 'completed'),
  cost: anything,
  key: aFunction,
  outage: oneOf('refuse', 'allow'),
};

/** A text or a function for each code that there is. */
const ownMessages: Readonly<Record<string, FieldForm>> = Object.fromEntries(
  Object.keys(manners).map((code) => [code, aTextOrFunction]),
);

/** For each that is about an argument. */
const argumentMessages: Fields<ArgumentMessages> = {
  'permission.rank': aTextOrFunction,
  'permission.target': aTextOrFunction,
  'requirement.failed': aTextOrFunction,
  'argument.missing': aTextOrFunction,
  'argument.invalid': aTextOrFunction,
  'argument.ambiguous': aTextOrFunction,
  'argument.absent-member': aTextOrFunction,
  'argument.extra': aTextOrFunction,
};

/**
 * A declaration without what is of the wrong form, which is told: so that it hides nothing else that is wrong. Hot path:
 * bench/rows/catalogue.
 */
export function rightPart<One extends AnyDeclaration | GroupDeclaration>(
  one: One,
  isGroup: boolean,
  tell: TellField,
): One {
  let right: Partial<AnyDeclaration> = one;
  checkFields(one, isGroup ? ofGroup : ofCommand, (field, problem) => {
    tell(field, problem);
    right = { ...right, [field]: undefined };
  });
  const { cooldowns, args } = right;
  checkSaid(right, tell);
  if (cooldowns !== undefined)
    right = withRight(right, 'cooldowns', cooldowns, (by, it) => checkCooldown(by, it, tell));
  if (args !== undefined) right = withRight(right, 'args', args, (name, arg) => checkArgument(name, arg, tell));
  return right as One;
}

/** Of one of its fields only those that are right. */
function withRight(
  one: Partial<AnyDeclaration>,
  field: 'cooldowns' | 'args',
  all: object,
  isRight: (name: string, value: unknown) => boolean,
): Partial<AnyDeclaration> {
  const entries = Object.entries(all);
  const kept = entries.filter(([name, value]) => isRight(name, value));
  return kept.length === entries.length ? one : { ...one, [field]: Object.fromEntries(kept) };
}

/** Codes, and all of a kind: `cooldown.active`, `cooldown.*`. */
const known = Object.keys(manners).flatMap((code) => [code, code.replace(/[^.]*$/, '*')]);

/** A code or a family, the bot's own too. */
const isCode = /^[^.\s*]+\.(?:[^\s*]+|\*)$/;

const ofManner: Fields<MannerOptions> = {
  visibleTo: oneOf('everyone', 'caller'),
  expires: (value) => (value === 'never' ? undefined : aDuration(value)),
  usage: aFlag,
};

/** What a layer, a group or a command says of codes. */
export function checkSaid(
  { messages = {}, manners: own = {} }: Pick<GroupDeclaration, 'messages' | 'manners'>,
  tell: TellField,
): void {
  for (const [code, manner] of Object.entries(own)) {
    const at = within(`manners.${code}`, tell);
    const [near] = known.includes(code) ? [] : nearNames(code, known);
    if (near) at('', `there is no such field; write ${near}`);
    else if (!isCode.test(code)) at('', "is no code; write one such as 'tool.out', or a family such as 'argument.*'");
    else checkFields(manner, ofManner, at);
  }
  checkFields(messages, ownMessages, within('messages', tell));
}

function checkCooldown(by: string, declared: unknown, tell: TellField): boolean {
  if (typeof declared === 'string') return true;
  const at = within(`cooldowns.${by}`, tell);
  if (typeof declared !== 'number') return checkFields(declared, ofCooldown, at);
  at('', `is ${declared}; write '${declared < 1000 ? declared : declared / 1000}s'`);
  return false;
}

function checkArgument(name: string, arg: unknown, tell: TellField): boolean {
  if (isArg(arg)) {
    checkFields(arg.messages ?? {}, argumentMessages, within(`args.${name}.messages`, tell));
    return true;
  }
  const problem = typeof arg === 'function' ? 'is a function; call it' : 'is no argument; give one';
  tell(`args.${name}`, `${problem}, as in arg.integer()`);
  return false;
}

export function within(field: string, tell: TellField): TellField {
  return (name, problem) => tell(name === '' ? field : `${field}.${name}`, problem);
}
