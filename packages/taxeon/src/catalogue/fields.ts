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
  checkFields,
  eachOf,
  type Fields,
  oneOf,
  type TellField,
  texts,
} from '../base/fields.js';
import { nearNames } from '../base/near.js';
import { aWhenMissing, isArg } from '../commands/arg.js';
import type { AnyDeclaration, Localized } from '../commands/command.js';
import type { CooldownOptions } from '../commands/cooldowns.js';
import type { GroupDeclaration } from '../commands/group.js';
import type { MannerOptions } from '../contract/codes.js';
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
  cooldowns: anObject,
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
  args: anObject,
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
const ownMessages: Readonly<Record<string, typeof aText>> = Object.fromEntries(
  Object.keys(manners).map((code) => [
    code,
    (value) => (typeof value === 'string' || typeof value === 'function' ? undefined : 'a text or a function'),
  ]),
);

/**
 * Whether a declaration is of the right form: what else is wrong with it can be told only then. Hot path:
 * bench/rows/catalogue.
 */
export function checkForm(one: AnyDeclaration | GroupDeclaration, isGroup: boolean, tell: TellField): boolean {
  if (!checkFields(one, isGroup ? ofGroup : ofCommand, tell)) return false;
  const { cooldowns } = one;
  const args = 'args' in one ? one.args : undefined;
  const isRight = [
    checkSaid(one, tell),
    cooldowns === undefined || checkCooldowns(cooldowns, tell),
    args === undefined || checkArguments(args, tell),
  ];
  return !isRight.includes(false);
}

const ofManner: Fields<MannerOptions> = {
  visibleTo: oneOf('everyone', 'caller'),
  expires: (value) => (value === 'never' ? undefined : aDuration(value)),
  usage: aFlag,
};

/** What a layer, a group or a command says of codes. */
export function checkSaid(
  { messages = {}, manners: own = {} }: Pick<GroupDeclaration, 'messages' | 'manners'>,
  tell: TellField,
): boolean {
  const known = Object.keys(manners).flatMap((code) => [code, code.replace(/[^.]*$/, '*')]);
  for (const [code, manner] of Object.entries(own)) {
    const at = within(`manners.${code}`, tell);
    const [near] = known.includes(code) ? [] : nearNames(code, known);
    if (near) at('', `there is no such field; write ${near}`);
    else checkFields(manner, ofManner, at);
  }
  return checkFields(messages, ownMessages, within('messages', tell));
}

function checkCooldowns(cooldowns: object, tell: TellField): boolean {
  const wrong = Object.entries(cooldowns).filter(
    ([by, declared]) =>
      typeof declared !== 'string' && !checkFields(declared, ofCooldown, within(`cooldowns.${by}`, tell)),
  );
  return wrong.length === 0;
}

function checkArguments(args: object, tell: TellField): boolean {
  let isRight = true;
  for (const [name, arg] of Object.entries(args)) {
    if (isArg(arg)) continue;
    isRight = false;
    tell(
      `args.${name}`,
      typeof arg === 'function'
        ? 'is a function; call it, as in arg.integer()'
        : 'is no argument; give what arg.integer() or another kind gives',
    );
  }
  return isRight;
}

export function within(field: string, tell: TellField): TellField {
  return (name, problem) => tell(name === '' ? field : `${field}.${name}`, problem);
}
