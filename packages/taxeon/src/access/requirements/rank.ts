/** `caller.outranks('who')`, `bot.outranks('who')`: a rank above that of a member argument; equal is not above. */
import { calledName } from '../../base/text.js';
import type { RankOptions } from '../../commands/requirements.js';
import type { Actor, Member } from '../../contract/actors.js';
import type { CodeParameters } from '../../contract/codes.js';
import { asThingsAre, type Decided, no, unknown } from '../algebra.js';
import { type AccessContext, isUnique, memberIn, type Rights } from '../context.js';
import type { Decidable } from '../requirement.js';
import { called } from './words.js';

type NotAbove = CodeParameters['permission.rank']['because'];

export function outranks(
  of: 'caller' | 'bot',
  argument: string,
  { orSelf = false, orBot = false }: RankOptions = {},
): Decidable {
  return {
    ...called(of === 'caller' ? 'outranks' : 'bot-outranks', { argument }),
    traits: { ranks: true, orBot, notSelf: of === 'caller' && !orSelf },
    decide(context) {
      const { args, bot } = context;
      if (args === undefined || bot === undefined) return 'later';
      const target = memberIn(args, argument);
      return target === undefined ? 'nobody' : above(target, context);
    },
    against: () => [asThingsAre],
  };

  function above(target: Member, { caller, bot, rights }: AccessContext): Decided {
    const self = bot === 'absent' ? undefined : bot;
    const because = of === 'bot' ? below(self, target) : callerBelow(caller, target, orSelf, rights);
    if (because === undefined) return 'yes';
    const refusal = {
      code: 'permission.rank',
      parameters: { of, argument, who: calledName(target), because },
    } as const;
    // Who cannot tell ranks cannot tell that a person does not rank above, either.
    return because === 'unknown' ? unknown(refusal) : no(refusal);
  }
}

type Ranked = Pick<Member, 'rank' | 'ownsGuild'>;

/** Why a caller is not above a person. */
export function callerBelow(
  caller: Actor,
  target: Ranked & Pick<Member, 'id' | 'sharesId'>,
  orSelf: boolean,
  rights: Rights,
): NotAbove | undefined {
  switch (caller.kind) {
    case 'member':
      if (!isUnique(target)) return 'unknown';
      if (caller.id === target.id) return orSelf ? undefined : 'self';
      return below(caller, target);
    case 'console':
    case 'program':
      return rights[caller.kind].outranks === 'everyone' && !target.ownsGuild ? undefined : 'not-above';
    case 'user':
      return 'unknown';
  }
}

/** Equal is not above; nobody is above the guild's owner, who is above all others. */
function below(actor: Ranked | undefined, target: Ranked): NotAbove | undefined {
  if (target.ownsGuild) return 'not-above';
  if (actor?.ownsGuild === true) return undefined;
  // NaN is a number, and above nothing: under `not` it would let everybody through.
  const [own, theirs] = [actor?.rank, target.rank];
  if (!isRank(own) || !isRank(theirs)) return 'unknown';
  return own > theirs ? undefined : 'not-above';
}

/** What a platform gives is not trusted to be of its type. */
function isRank(rank: unknown): rank is number {
  return typeof rank === 'number' && !Number.isNaN(rank);
}
