/** `target('who').can('borrow')`, `target('who').isBot()`: what holds of the member that an argument names. */
import { calledName } from '../../base/text.js';
import type { Member } from '../../contract/actors.js';
import type { CodeParameters } from '../../contract/codes.js';
import { type AccessRefusal, no } from '../algebra.js';
import { type AccessContext, memberCan, memberIn } from '../context.js';
import type { Decidable } from '../requirement.js';
import { called } from './words.js';

export function targetCan(argument: string, permission: string): Decidable {
  return aboutTarget(argument, {
    ...called('target-can', { argument, permission }),
    traits: { permissionOf: 'target' },
    holds: (member, context) => memberCan(member, permission, context),
    because: { lacking: 'lacks', having: 'can' },
    permission,
  });
}

export function targetIsBot(argument: string): Decidable {
  return aboutTarget(argument, {
    ...called('target-is-bot', { argument }),
    traits: {},
    holds: ({ isBot }) => isBot === true,
    because: { lacking: 'no-bot', having: 'a-bot' },
    permission: '',
  });
}

type Because = CodeParameters['permission.target']['because'];

interface TargetQuestion extends Omit<Decidable, 'decide' | 'against'> {
  holds(member: Member, context: AccessContext): boolean;
  readonly because: { readonly lacking: Because; readonly having: Because };
  readonly permission: string;
}

function aboutTarget(argument: string, { holds, because, permission, ...told }: TargetQuestion): Decidable {
  const refusal = (member: Member, why: Because): AccessRefusal => ({
    code: 'permission.target',
    parameters: { argument, who: calledName(member), because: why, permission },
  });
  return {
    ...told,
    decide(context) {
      if (context.args === undefined) return 'later';
      const member = memberIn(context.args, argument);
      if (member === undefined) return 'nobody';
      return holds(member, context) ? 'yes' : no(refusal(member, because.lacking));
    },
    against({ args = {} }) {
      const member = memberIn(args, argument);
      return member === undefined ? [] : [refusal(member, because.having)];
    },
  };
}
