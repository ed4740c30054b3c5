/** Requirements: conditions as data, so that one declaration serves the check, the help and the tables. */
import type { ArgMap, MemberNames } from './arg.js';

/** One condition of who may run a command. */
export type Requirement =
  | { readonly kind: 'can'; readonly of: 'caller' | 'bot'; readonly permission: string }
  | { readonly kind: 'holds'; readonly role: string }
  | { readonly kind: 'outranks'; readonly of: 'caller' | 'bot'; readonly argument: string; readonly orSelf: boolean };

/** What a `requires` function builds its list from. Requirements exist only there. */
export interface RequirementBuilder<Args extends ArgMap> {
  readonly caller: {
    /** The platform gives the caller this permission here. */
    can(permission: string): Requirement;
    /** The caller has this role in the guild. */
    holds(role: string): Requirement;
    /** The caller's rank is above that of the member argument; equal is not above. */
    outranks(argument: MemberNames<Args>, options?: { readonly orSelf?: boolean }): Requirement;
  };
  readonly bot: {
    can(permission: string): Requirement;
    outranks(argument: MemberNames<Args>): Requirement;
  };
}

const can =
  (of: 'caller' | 'bot') =>
  (permission: string): Requirement => ({ kind: 'can', of, permission });

/** The one builder there is; its type narrows the argument names for each command. */
export const requirementBuilder: RequirementBuilder<ArgMap> = {
  caller: {
    can: can('caller'),
    holds: (role) => ({ kind: 'holds', role }),
    outranks: (argument, options) => ({
      kind: 'outranks',
      of: 'caller',
      argument,
      orSelf: options?.orSelf === true,
    }),
  },
  bot: {
    can: can('bot'),
    outranks: (argument) => ({ kind: 'outranks', of: 'bot', argument, orSelf: false }),
  },
};
