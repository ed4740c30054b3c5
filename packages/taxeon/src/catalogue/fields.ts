/** The fields of declarations, with the form of each. */
import {
  aFunction,
  aList,
  anObject,
  anything,
  aText,
  checkFields,
  eachOf,
  type Fields,
  oneOf,
  type TellField,
  texts,
} from '../base/fields.js';
import { isArg } from '../commands/arg.js';
import type { AnyDeclaration, Localized } from '../commands/command.js';
import type { CooldownOptions } from '../commands/cooldowns.js';
import type { GroupDeclaration } from '../commands/group.js';
import { manners } from '../replies/manners.js';

const localizedFields: Fields<Localized> = {
  name: aText,
  description: aText,
  args: eachOf(aText, 'texts by argument'),
};

const aLocalized = (value: unknown) =>
  checkFields(value, localizedFields, () => undefined) ? undefined : 'a name, a description and args';

const shared: Fields<Omit<GroupDeclaration, 'commands'>> = {
  name: aText,
  aliases: texts,
  description: aText,
  id: aText,
  in: anything,
  surfaces: aList,
  requires: aFunction,
  cooldowns: anObject,
  running: anObject,
  messages: anObject,
  scope: anything,
  localized: eachOf(aLocalized, 'a name, a description and args by locale'),
  section: aText,
  around: aFunction,
  onRefusal: aFunction,
};

const ofCommand: Fields<AnyDeclaration> = {
  ...shared,
  args: anObject,
  together: aFunction,
  visibleTo: oneOf('everyone', 'caller'),
  timeout: anything,
  examples: texts,
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
export const ownMessages: Readonly<Record<string, typeof aText>> = Object.fromEntries(
  Object.keys(manners).map((code) => [
    code,
    (value) => (typeof value === 'string' || typeof value === 'function' ? undefined : 'a text or a function'),
  ]),
);

/** Whether a declaration is of the right form: what else is wrong with it can be told only then. */
export function checkForm(one: AnyDeclaration | GroupDeclaration, isGroup: boolean, tell: TellField): boolean {
  const within =
    (field: string): TellField =>
    (name, problem) =>
      tell(name === '' ? field : `${field}.${name}`, problem);
  if (!checkFields(one, isGroup ? ofGroup : ofCommand, tell)) return false;
  const { cooldowns = {}, messages = {} } = one;
  let isRight = checkFields(messages, ownMessages, within('messages'));
  for (const [by, declared] of Object.entries(cooldowns)) {
    if (typeof declared === 'string') continue;
    if (!checkFields(declared, ofCooldown, within(`cooldowns.${by}`))) isRight = false;
  }
  for (const [name, arg] of Object.entries(('args' in one ? one.args : undefined) ?? {})) {
    if (isArg(arg)) continue;
    tell(
      `args.${name}`,
      `is ${typeof arg === 'function' ? 'a function; call it, as in arg.integer()' : 'no argument; give what arg.integer() or another kind gives'}`,
    );
    isRight = false;
  }
  return isRight;
}
