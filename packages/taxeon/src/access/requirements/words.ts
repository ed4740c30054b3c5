/** What each requirement is called in English, by its key; in other languages as `requires.KEY`. */
import { mark } from '../../base/mark.js';
import { fillIn } from '../../base/template.js';
import type { RequirementParameters, RequirementWords } from '../../commands/requirements.js';
import { none } from '../requirement.js';

export const requirementTexts = {
  can: { plain: 'caller can {permission}', needed: 'the permission {permission}' },
  'bot-can': { plain: 'bot can {permission}', needed: 'that I have the permission {permission}' },
  holds: { plain: 'caller holds {role}', needed: 'the role {role}' },
  'owns-bot': { plain: 'caller owns the bot', needed: 'owning the bot' },
  outranks: { plain: 'caller outranks “{argument}”', needed: 'ranking above “{argument}”' },
  'bot-outranks': { plain: 'bot outranks “{argument}”', needed: 'that I rank above “{argument}”' },
  'target-can': {
    plain: '“{argument}” can {permission}',
    opposite: '“{argument}” cannot {permission}',
    needed: 'that “{argument}” has the permission {permission}',
    unwanted: 'that “{argument}” does not have the permission {permission}',
  },
  'target-is-bot': {
    plain: '“{argument}” is a bot',
    opposite: '“{argument}” is no bot',
    needed: 'that “{argument}” is a bot',
    unwanted: 'that “{argument}” is no bot',
  },
} as const satisfies Readonly<Record<string, RequirementWords>>;

export type RequirementKey = keyof typeof requirementTexts;

/** What a requirement of a key is, but how it is decided. */
export function called(key: RequirementKey, parameters: RequirementParameters) {
  const texts = Object.entries(requirementTexts[key]).map(([name, text]) => [name, fillIn(text, parameters)]);
  const english = Object.fromEntries(texts) as RequirementWords;
  return { [mark]: 'requirement', key, parameters, operands: none, english } as const;
}
