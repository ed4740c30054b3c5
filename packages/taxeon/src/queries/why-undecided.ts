/** Why something could not be decided: the platform does not tell what it takes, or has no look-up for it. */
import { isUnfindable, lookUpsOf } from '../commands/arg.js';
import type { Actor } from '../contract/actors.js';
import type { Code, Coded, Missing } from '../contract/codes.js';
import { emptyDirectory, unknownRights } from '../contract/empty-directory.js';
import type { Directory, Platform } from '../contract/platform.js';
import { heardOf, type State } from '../pipeline/state.js';
import type { Stop } from '../pipeline/stop.js';
import type { Slot } from '../reading/slots.js';

/** For the bot's developer; `undefined` where the platform has told all that it takes. */
export function whyUndecided(state: State, stop: Stop): string | undefined {
  if (stop.status !== 'refused' && stop.status !== 'invalid') return undefined;
  if (stop.status === 'refused' && stop.by === 'handler') return undefined;
  const { caller, platform } = heardOf(state);
  const slots = 'command' in state ? state.command.slots.all : [];
  return platform === undefined ? undefined : reasonFor(stop as Coded<Code>, caller, platform, slots);
}

function reasonFor(coded: Coded<Code>, caller: Actor, platform: Platform, slots: readonly Slot[]): string | undefined {
  switch (coded.code) {
    case 'permission.caller': {
      const [missing] = coded.parameters.missing;
      return untoldOf(caller, missing && fields[missing.what], platform);
    }
    case 'permission.bot':
      return lacking(platform, 'self');
    case 'permission.rank':
      if (coded.parameters.because !== 'unknown') return undefined;
      return coded.parameters.of === 'bot' ? lacking(platform, 'self') : untoldOf(caller, 'rank', platform);
    case 'permission.target':
      return coded.parameters.because === 'unknown' ? lacking(platform, 'self') : undefined;
    case 'command.unavailable':
      return coded.parameters.because === 'look-up' ? noWay(slots, platform) : undefined;
    default:
      return undefined;
  }
}

function noWay(slots: readonly Slot[], { name, directory }: Platform): string | undefined {
  const slot = slots.find((one) => isUnfindable(one, directory));
  const lookUps = slot && lookUpsOf(slot);
  return lookUps && `the directory of ${name} has no ${lookUps.map((one) => `\`${one}\``).join(' and no ')}`;
}

/** What of a caller decides whether they have it. */
const fields: Readonly<Record<Missing['what'], keyof typeof what | undefined>> = {
  permission: 'permissions',
  role: 'roles',
  ownership: undefined,
};

const what = { permissions: 'what the caller may do', roles: 'the caller’s roles', rank: 'the caller’s rank' } as const;

function untoldOf(caller: Actor, field: keyof typeof what | undefined, { name }: Platform): string | undefined {
  if (field === undefined || caller.kind !== 'member' || caller[field] !== unknownRights[field]) return undefined;
  return `${name} does not tell ${what[field]}`;
}

function lacking({ name, directory }: Platform, lookUp: keyof Directory): string | undefined {
  return directory[lookUp] === emptyDirectory[lookUp] ? `the directory of ${name} has no \`${lookUp}\`` : undefined;
}
