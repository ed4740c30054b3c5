/** `caller.holds('steward')`: the caller has a role in the guild, by the bot's own name for it. */
import { lacks, mustBeWithout, no } from '../algebra.js';
import type { Decidable } from '../requirement.js';
import { called } from './words.js';

export function holds(role: string): Decidable {
  const lacking = no(lacks('role', role));
  return {
    ...called('holds', { role }),
    traits: { byCaller: true, grantable: true },
    decide({ caller, rights, settings }) {
      switch (caller.kind) {
        case 'member':
          return caller.roles.some((one) => settings.isRole(one, role)) ? 'yes' : lacking;
        case 'user':
          return lacking;
        default:
          return rights[caller.kind].holds?.includes(role) === true ? 'yes' : lacking;
      }
    },
    against: () => [mustBeWithout('role', role)],
  };
}
