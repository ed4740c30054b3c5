/** A requirement that can be decided: what each file of requirements/ makes. */
import { bears, mark } from '../base/mark.js';
import type { Requirement } from '../commands/requirements.js';
import type { AccessRefusal, Decided } from './algebra.js';
import type { AccessContext } from './context.js';

export interface Decidable extends Requirement {
  readonly [mark]: 'requirement';
  readonly operands: readonly Decidable[];
  /** Hot path: bench/rows/calls. */
  decide(context: AccessContext): Decided;
  /** Why it refuses under `not`, where it holds. */
  against(context: AccessContext): readonly AccessRefusal[];
  /** What the developer's own condition is asked; other requirements have none. */
  readonly condition?: Condition;
}

/** A function of the developer's, which is asked once everything else is settled. */
export type Condition = (context: never) => unknown;

/** Whether a value is what the builder has made. Types do not hold in JavaScript. */
export function isRequirement(value: unknown): value is Decidable {
  return bears(value, 'requirement');
}

export const none: readonly Decidable[] = [];
