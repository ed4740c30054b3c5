/** The one builder there is; its type narrows the argument names for each command. */

import { BoundedMap, foundOrMade } from '../../base/bounded-map.js';
import { aFlag, checkFields, shown } from '../../base/fields.js';
import type { ArgMap } from '../../commands/arg.js';
import type { RankOptions, RequirementBuilder } from '../../commands/requirements.js';
import { type Decidable, isRequirement } from '../requirement.js';
import { all, any, not } from './combined.js';
import { condition } from './condition.js';
import { ownership } from './ownership.js';
import { botCan, callerCan } from './permission.js';
import { outranks } from './rank.js';
import { holds } from './role.js';
import { targetCan, targetIsBot } from './target.js';

/** Commands share what they require alike: bench/rows/catalogue. */
function shared(make: (name: string) => Decidable): (name: string) => Decidable {
  const made = new BoundedMap<string, Decidable>(MOST_SHARED);
  return (name) => foundOrMade(made, name, (one) => frozen(make(one)));
}

/** What one command has must not be changed for all. */
function frozen(requirement: Decidable): Decidable {
  for (const part of Object.values(requirement)) Object.freeze(part);
  return Object.freeze(requirement);
}

const MOST_SHARED = 1000;
const callerCanOnce = shared(callerCan);
const botCanOnce = shared(botCan);
const holdsOnce = shared(holds);
const ranks = new BoundedMap<string, Decidable>(MOST_SHARED);

function outranksOnce(of: 'caller' | 'bot', argument: string, options: RankOptions): Decidable {
  const key = `${of} ${options.orSelf} ${options.orBot} ${argument}`;
  return foundOrMade(ranks, key, () => frozen(outranks(of, argument, options)));
}

export const requirementBuilder = {
  caller: {
    can: (permission) => callerCanOnce(mustBeName('caller.can', permission)),
    holds: (role) => holdsOnce(mustBeName('caller.holds', role)),
    ownsBot: ownership,
    outranks: (argument: string, options) =>
      outranksOnce('caller', mustBeName('caller.outranks', argument), rankOptions('caller', options)),
  },
  bot: {
    can: (permission) => botCanOnce(mustBeName('bot.can', permission)),
    outranks: (argument: string, options) =>
      outranksOnce('bot', mustBeName('bot.outranks', argument), rankOptions('bot', options)),
  },
  target: (argument: string) => ({
    can: (permission) => targetCan(mustBeName('target', argument), mustBeName('target(…).can', permission)),
    isBot: () => targetIsBot(mustBeName('target', argument)),
  }),
  allOf: (...of) => all(...of.map((one) => decidable('allOf', one))),
  anyOf: (...of) => any(...of.map((one) => decidable('anyOf', one))),
  not: (of) => not(decidable('not', of)),
  condition(words, decides) {
    if (typeof decides !== 'function') throw new TypeError(`condition takes a function, not ${shown(decides)}`);
    return condition(mustBeName('condition', words), decides);
  },
} satisfies RequirementBuilder<ArgMap>;

/** Types do not hold in JavaScript. */
function mustBeName(by: string, name: unknown): string {
  if (typeof name === 'string' && name.trim() !== '') return name;
  throw new TypeError(`${by} takes a name, not ${shown(name)}`);
}

function rankOptions(of: 'caller' | 'bot', options: RankOptions = {}): RankOptions {
  const fields = of === 'caller' ? { orSelf: aFlag, orBot: aFlag } : { orBot: aFlag };
  checkFields(options, fields, (field, problem) => {
    throw new TypeError(`${of}.outranks${field === '' ? '' : `, ${field}`}: ${problem}`);
  });
  return options;
}

function decidable(by: string, requirement: unknown): Decidable {
  if (isRequirement(requirement)) return requirement;
  throw new TypeError(`${by} takes requirements, not ${shown(requirement)}`);
}
