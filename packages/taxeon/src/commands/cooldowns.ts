/** Cooldowns and running limits as a command declares them. */

import type { Allowance } from '../base/allowance.js';
import type { MaybePromise } from '../base/thenable.js';
import type { ArgMap, ValuesOf } from './arg.js';
import type { ConditionContext, Requirement, RequirementBuilder } from './requirements.js';
import type { AnyWords } from './words.js';

/**
 * Whose uses are counted together: a person everywhere, a person in this guild, a channel, a guild, or
 * all together. Where there is no guild, the conversation is counted.
 */
export type CountedBy = 'user' | 'userHere' | 'channel' | 'guild' | 'everyone';

/** What is done while the store does not answer. */
export type OutagePolicy = 'refuse' | 'allow';

/** A cooldown with all that can be said of it. */
export interface CooldownOptions<Args extends ArgMap = ArgMap, Words extends AnyWords = AnyWords> {
  readonly allow: Allowance;
  /** Commands that name the same share one counter. They must allow the same. */
  readonly shared?: string;
  /** A person who meets all of these is not counted. */
  readonly exempt?: (builder: RequirementBuilder<Args, Words>) => readonly Requirement[];
  /** `'completed'` gives the use back unless the handler completed; its own refusal is not that. `'always'` by default. */
  readonly charge?: 'always' | 'completed';
  /** How many uses one call takes, at least 1; 1 by default. */
  readonly cost?: number | ((args: ValuesOf<Args>) => MaybePromise<number>);
  /** Whose uses are counted together, for a cooldown under a name of its own. */
  readonly key?: (context: ConditionContext<ValuesOf<Args>>) => MaybePromise<string>;
  /** In place of the layer's. */
  readonly outage?: OutagePolicy;
}

/** By whom they count; under any other name, with a `key` function. */
export type Cooldowns<Args extends ArgMap = ArgMap, Words extends AnyWords = AnyWords> = {
  readonly [By in CountedBy]?: Allowance | CooldownOptions<Args, Words>;
} & { readonly [own: string]: Allowance | CooldownOptions<Args, Words> };

/** How many calls may run at once, by whom they count. */
export type RunningLimits = { readonly [By in CountedBy]?: number };

export const countedBy: readonly string[] = ['user', 'userHere', 'channel', 'guild', 'everyone'] satisfies CountedBy[];

/** The options behind either way to write a cooldown. */
export function cooldownOptions(declared: Allowance | CooldownOptions): CooldownOptions {
  return typeof declared === 'object' ? declared : { allow: declared };
}
