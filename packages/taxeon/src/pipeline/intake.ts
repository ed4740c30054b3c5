/** Stage 1: what comes in. What a platform gives is not trusted to have the right form; the bot answers no bots, and not itself. */

import { calledName } from '../base/text.js';
import { isAttachment } from '../contract/attachment.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';
import type { Gate, StageInWords } from './stage.js';

export const intake: Gate = {
  kind: 'gate',
  name: 'intake',
  take: (_course, { caller }) => ('isBot' in caller && caller.isBot === true ? 'bot' : undefined),
  passed: ({ caller }) => `from ${caller.kind === 'console' ? 'the console' : calledName(caller)}`,
};

export const intakeInWords: StageInWords = { does: 'leaves out other bots and the bot itself', stopsWith: ['ignored'] };

/** In UTF-16 code units. */
const LONGEST_ID = 512;
const surfaces = new Set(['text', 'slash', 'console', 'program']);
/** Those that were looked at, and are as they should be. */
const right = new WeakSet<Platform>();

/** Which part of an input is not as its type says, for the log; `undefined` where all is right. Hot path: bench/rows/calls. */
export function inputProblem(input: Input, platform: Platform | undefined): string | undefined {
  if (platform !== undefined && !right.has(platform)) {
    const problem = platformProblem(platform);
    if (problem !== undefined) return `platform.${problem}`;
    right.add(platform);
  }
  const { surface, id, caller, place, text, path, options, at, attachments, isEdit } = input;
  if (!surfaces.has(surface)) return 'surface';
  if (id !== undefined && !isId(id)) return 'id';
  if (!Number.isFinite(at)) return 'at';
  if (text === undefined ? surface === 'text' || surface === 'console' : typeof text !== 'string') return 'text';
  if (path === undefined ? surface === 'slash' : !isListOf(path, isText)) return 'path';
  if (options !== undefined && (typeof options !== 'object' || options === null)) return 'options';
  if (attachments !== undefined && !(isListOf(attachments, isAttachment) && attachments.length <= MOST_ATTACHMENTS))
    return 'attachments';
  if (isEdit !== undefined && (isEdit !== true || id === undefined)) return 'isEdit';
  const wrong = callerProblem(caller);
  return wrong === undefined ? placeProblem(place) : `caller.${wrong}`;
}

function isText(value: unknown): value is string {
  return typeof value === 'string';
}

function isId(value: unknown): boolean {
  return isText(value) && value !== '' && value.length <= LONGEST_ID;
}

const MOST_ATTACHMENTS = 20;

function isListOf(value: unknown, isOne: (one: unknown) => boolean): boolean {
  return Array.isArray(value) && value.every(isOne);
}

function callerProblem(caller: Input['caller']): string | undefined {
  if (!isId(caller.id)) return 'id';
  if (!isText(caller.name)) return 'name';
  switch (caller.kind) {
    case 'member': {
      const { roles, permissions } = caller;
      if (!(permissions instanceof Set)) return 'permissions';
      return Array.isArray(roles) && roles.every(isNamed) ? undefined : 'roles';
    }
    case 'user':
    case 'console':
    case 'program':
      return undefined;
    default:
      return 'kind';
  }
}

function placeProblem(place: Input['place']): string | undefined {
  if (place.kind === 'console') return undefined;
  if (place.kind !== 'guild' && place.kind !== 'direct') return 'place.kind';
  if (!isNamed(place.channel)) return 'place.channel';
  if (place.kind === 'guild' && place.heardBy !== undefined && !isId(place.heardBy)) return 'place.heardBy';
  return place.kind === 'direct' || isNamed(place.guild) ? undefined : 'place.guild';
}

function isNamed(one: { readonly id: unknown; readonly name: unknown } | undefined): boolean {
  return isId(one?.id) && isText(one?.name);
}

const lookUps = ['self', 'mentioned', 'member', 'membersNamed', 'user', 'roles', 'channels'] as const;

function platformProblem({ name, capabilities, directory, deliver }: Platform): string | undefined {
  if (!isId(name) || name.includes('/')) return 'name';
  if (typeof capabilities !== 'object' || capabilities === null) return 'capabilities';
  if (typeof deliver !== 'function') return 'deliver';
  const lacking = lookUps.find((one) => typeof directory?.[one] !== 'function');
  return lacking === undefined ? undefined : `directory.${lacking}`;
}
