/** What a platform gives is not trusted to have the right form: types do not hold for what comes from outside. */
import { isAttachment } from '../contract/attachment.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';

/** In UTF-16 code units. */
const LONGEST_ID = 512;
const surfaces = new Set(['text', 'slash', 'console', 'program']);
/** Those that were looked at, and are as they should be. */
const right = new WeakSet<Platform>();

/** What is wrong with an input, for the log; `undefined` where it is right. Hot path: bench/rows/calls. */
export function inputProblem(input: Input, platform: Platform | undefined): string | undefined {
  if (platform !== undefined && !right.has(platform)) {
    const problem = platformProblem(platform);
    if (problem !== undefined) return problem;
    right.add(platform);
  }
  const { surface, id, caller, place, text, path, options, at, attachments, isEdit } = input;
  if (!surfaces.has(surface)) return 'its surface is none';
  if (id !== undefined && !isId(id)) return 'its id is no text';
  if (!Number.isFinite(at)) return 'its time is no number';
  if (text === undefined ? surface === 'text' || surface === 'console' : typeof text !== 'string') {
    return 'its text is none';
  }
  if (path === undefined ? surface === 'slash' : !isListOfTexts(path)) return 'its path is no list of texts';
  if (options !== undefined && (typeof options !== 'object' || options === null)) return 'its options are no object';
  if (attachments !== undefined && !(isShortList(attachments) && attachments.every(isAttachment)))
    return 'its attachments are no list of at most 20 files';
  if (isEdit !== undefined && (isEdit !== true || id === undefined)) return 'it is no edit, or one without an id';
  return callerProblem(caller) ?? placeProblem(place);
}

function isId(value: unknown): boolean {
  return typeof value === 'string' && value !== '' && value.length <= LONGEST_ID;
}

const MOST_ATTACHMENTS = 20;

function isShortList(value: unknown): value is readonly unknown[] {
  return Array.isArray(value) && value.length <= MOST_ATTACHMENTS;
}

function isListOfTexts(value: unknown): boolean {
  return Array.isArray(value) && value.every((one) => typeof one === 'string');
}

function callerProblem(caller: Input['caller']): string | undefined {
  if (!isId(caller.id)) return 'its caller has no id';
  if (typeof caller.name !== 'string') return 'its caller has no name';
  switch (caller.kind) {
    case 'member': {
      const { roles, permissions } = caller;
      if (!Array.isArray(roles) || !(permissions instanceof Set)) return 'its caller has no roles or permissions';
      return roles.every((role) => isId(role?.id) && typeof role.name === 'string') ? undefined : 'a role has no id';
    }
    case 'user':
    case 'console':
    case 'program':
      return undefined;
    default:
      return 'its caller is of no kind';
  }
}

function placeProblem(place: Input['place']): string | undefined {
  if (place.kind === 'console') return undefined;
  if (place.kind !== 'guild' && place.kind !== 'direct') return 'its place is of no kind';
  if (!isNamed(place.channel)) return 'its channel has no id or name';
  return place.kind === 'direct' || isNamed(place.guild) ? undefined : 'its guild has no id or name';
}

function isNamed({ id, name }: { readonly id: unknown; readonly name: unknown }): boolean {
  return isId(id) && typeof name === 'string';
}

const lookUps = ['self', 'mentioned', 'member', 'membersNamed', 'user', 'roles', 'channels'] as const;

function platformProblem({ name, capabilities, directory, deliver }: Platform): string | undefined {
  if (!isId(name) || name.includes('/')) return 'its platform has no name, or one with a / in it';
  if (typeof capabilities !== 'object' || capabilities === null) return 'its platform has no capabilities';
  if (typeof deliver !== 'function') return 'its platform delivers nothing';
  const lacking = lookUps.find((one) => typeof directory?.[one] !== 'function');
  return lacking === undefined ? undefined : `its platform’s directory has no ${lacking}`;
}
