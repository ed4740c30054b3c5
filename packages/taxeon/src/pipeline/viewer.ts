/** What somebody may be shown: only what they could run here, as the access table says. */
import { checkCaller } from '../access/check.js';
import type { AccessRefusal } from '../access/finding.js';
import type { CompiledSettings } from '../access/rules.js';
import type { Rights } from '../access/scene.js';
import type { CompiledCommand, CompiledGroup, CompiledScope } from '../catalogue/catalogue.js';
import type { Actor } from '../contract/actors.js';
import type { Coded } from '../contract/codes.js';
import type { Surface } from '../contract/input.js';
import { keyOf } from '../contract/key.js';
import type { Guild, Place } from '../contract/places.js';

/** Who asks, and where. */
export interface Viewer {
  readonly caller: Actor;
  /** The platform's name; empty where the input came without one. */
  readonly platformName: string;
  readonly guild: Guild | undefined;
  readonly place: Place;
  /** The layer's time, in milliseconds. */
  readonly now: number;
  readonly rights: Rights;
  /** As they stood when the input came: it keeps to them. */
  readonly settings: CompiledSettings;
  readonly surface: Surface;
}

/** Why a command is not reached where somebody is. */
export function reachProblem(
  { ids, name, in: where, surfaces, scope, overviewOf }: CompiledCommand,
  viewer: Pick<Viewer, 'surface' | 'place' | 'platformName' | 'settings'>,
): Coded<'command.unavailable' | 'place.wrong'> | undefined {
  const { surface, place, settings } = viewer;
  if (overviewOf !== undefined) return firstProblem(overviewOf, (command) => reachProblem(command, viewer));
  if (!surfaces.has(surface)) return unavailable(name, 'surface', surface);
  if (where !== 'anywhere' && where !== place.kind) {
    return { code: 'place.wrong', parameters: { command: name, allowed: where, atConsole: surface === 'console' } };
  }
  if (!isInScope(scope, viewer)) return unavailable(name, 'scope', surface);
  return settings.isOff(ids) ? unavailable(name, 'off', surface) : undefined;
}

/** The console and the bot's own code are in no guild that a command could be registered for. */
export function isInScope(
  { isEverywhere, guilds }: CompiledScope,
  { surface, place, platformName }: Pick<Viewer, 'surface' | 'place' | 'platformName'>,
): boolean {
  if (isEverywhere || surface === 'console' || surface === 'program') return true;
  return place.kind === 'guild' && guilds.has(keyOf(platformName, place.guild.id));
}

function unavailable(
  command: string,
  because: 'surface' | 'off' | 'scope',
  surface: Viewer['surface'],
): Coded<'command.unavailable'> {
  return { code: 'command.unavailable', parameters: { command, because, surface } };
}

/** A group called alone is refused only where all of its commands are. */
function firstProblem<Problem>(
  { commands }: CompiledGroup,
  problemOf: (command: CompiledCommand) => Problem | undefined,
): Problem | undefined {
  let first: Problem | undefined;
  for (const command of commands) {
    const problem = problemOf(command);
    if (problem === undefined) return undefined;
    first ??= problem;
  }
  return first;
}

/** Why the caller alone may not run it. */
export function accessProblem(command: CompiledCommand, viewer: Viewer): AccessRefusal | undefined {
  const { overviewOf } = command;
  if (overviewOf === undefined) return checkCaller(command, viewer);
  return firstProblem(overviewOf, (one) =>
    reachProblem(one, viewer) === undefined ? checkCaller(one, viewer) : undefined,
  );
}
