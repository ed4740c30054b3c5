/** `caller.can('fine')`, `bot.can('give-badges')`: the platform, or one of the bot's own roles, gives a permission here. */
import { asThingsAre, lacks, mustBeWithout, no } from '../algebra.js';
import { type AccessContext, memberCan } from '../context.js';
import type { Decidable } from '../requirement.js';
import { called } from './words.js';

export function callerCan(permission: string): Decidable {
  const lacking = no(lacks('permission', permission));
  return {
    ...called('can', { permission }),
    traits: { byCaller: true, grantable: true, permissionOf: 'caller' },
    decide: (context) => (can(permission, context) ? 'yes' : lacking),
    against: () => [mustBeWithout('permission', permission)],
  };
}

function can(permission: string, context: AccessContext): boolean {
  const { caller, rights } = context;
  switch (caller.kind) {
    case 'member':
      return memberCan(caller, permission, context);
    case 'user':
      return false;
    case 'console':
    case 'program': {
      const { can: may } = rights[caller.kind];
      return may === 'everything' || may?.includes(permission) === true;
    }
  }
}

export function botCan(permission: string): Decidable {
  const lacking = no({ code: 'permission.bot', parameters: { name: permission } });
  return {
    ...called('bot-can', { permission }),
    traits: { permissionOf: 'bot' },
    decide(context) {
      const { bot } = context;
      if (bot === undefined) return 'later';
      return bot !== 'absent' && memberCan(bot, permission, context) ? 'yes' : lacking;
    },
    against: () => [asThingsAre],
  };
}
