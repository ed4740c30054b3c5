/** What somebody may be shown: only what they could run here, as the access table says. */
import { checkCaller, isExcused, lookUpBot } from '../access/check.js';
import { type AccessRefusal, decide, refusalOf } from '../access/decide.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { CompiledCommand, CompiledGroup, CompiledScope } from '../catalogue/compile.js';
import { isEntryShown, nearEntries } from '../catalogue/entries.js';
import { requirementInWords } from '../commands/requirements.js';
import type { Member } from '../contract/actors.js';
import type { Coded } from '../contract/codes.js';
import type { HelpScene } from '../queries/help/data.js';
import type { Run } from './run-object.js';

/** Who asks, and where; a run is one. */
export type Viewer = Pick<Run, 'caller' | 'guild' | 'place' | 'now' | 'rights' | 'settings' | 'surface'>;

/** Why a command is not reached where somebody is. */
export function reachProblem(
  { ids, name, in: where, surfaces, scope, overviewOf }: CompiledCommand,
  viewer: Pick<Viewer, 'surface' | 'place' | 'settings'>,
): Coded<'command.unavailable' | 'place.wrong'> | undefined {
  const { surface, place, settings } = viewer;
  if (overviewOf !== undefined) return firstProblem(overviewOf, (command) => reachProblem(command, viewer));
  if (!surfaces.has(surface)) return unavailable(name, 'surface', surface);
  if (where !== 'anywhere' && where !== place.kind) {
    return { code: 'place.wrong', parameters: { command: name, allowed: where } };
  }
  if (!isInScope(scope, place, surface)) return unavailable(name, 'scope', surface);
  return settings.isOff(ids) ? unavailable(name, 'off', surface) : undefined;
}

/** The console and the bot's own code are in no guild that a command could be registered for. */
function isInScope({ isGlobal, guilds }: CompiledScope, place: Viewer['place'], surface: Viewer['surface']): boolean {
  if (isGlobal || surface === 'console' || surface === 'program') return true;
  return place.kind === 'guild' && guilds.has(place.guild.id);
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

/** What access says of a command before it is called. */
export type Standing =
  | { readonly verdict: 'allowed'; readonly isExcused: boolean }
  | { readonly verdict: 'depends'; readonly on: readonly string[] }
  | { readonly verdict: 'refused'; readonly refusal: AccessRefusal }
  | { readonly verdict: 'off'; readonly because: 'off' | 'scope' };

/** The same for the access table, help, near names and completion. */
export function standingOf(
  command: CompiledCommand,
  viewer: Omit<Viewer, 'surface'> & Partial<Pick<Viewer, 'surface'>>,
  bot: Member | 'absent',
): Standing {
  const { caller, settings, rights } = viewer;
  if (!isInScope(command.scope, viewer.place, viewer.surface ?? 'text')) return { verdict: 'off', because: 'scope' };
  if (settings.isOff(command.ids)) return { verdict: 'off', because: 'off' };
  const refusal = checkCaller(command, viewer);
  if (refusal !== undefined) return { verdict: 'refused', refusal };
  const scene = { caller, settings, rights, bot, args: undefined, checked: undefined };
  const excused = isExcused(command, viewer);
  const open: string[] = [];
  for (const { requirement, grantable } of command.requires) {
    const finding = decide(requirement, scene);
    if (finding === 'later') open.push(requirementInWords(requirement));
    else if (typeof finding === 'object' && !(grantable && excused)) {
      return { verdict: 'refused', refusal: refusalOf(finding) };
    }
  }
  return open.length === 0 ? { verdict: 'allowed', isExcused: excused } : { verdict: 'depends', on: open };
}

/** Whether a command may be shown, once it is known how the bot stands here. */
export type Shows = (command: CompiledCommand) => boolean;

/** Asks the platform for the bot only once; synchronous where the platform is. */
export function showsTo(run: Run): MaybePromise<Shows> {
  const shows = (bot: Member | 'absent'): Shows => {
    const known = new Map<CompiledCommand, boolean>();
    return (command) => {
      let isShown = known.get(command);
      if (isShown === undefined) {
        isShown = reachProblem(command, run) === undefined && mayRun(standingOf(command, run, bot));
        known.set(command, isShown);
      }
      return isShown;
    };
  };
  const bot = lookUpBot(run.place, run.directory);
  return isThenable(bot) ? bot.then(shows) : shows(bot);
}

function mayRun({ verdict }: Standing): boolean {
  return verdict === 'allowed' || verdict === 'depends';
}

export function helpScene(run: Run, isShown: Shows): HelpScene {
  return { catalogue: run.catalogue, isShown, prefix: run.prefix, locale: run.asked };
}

/**
 * The names like one that was typed, of what may be shown, with the group's name in front.
 *
 * @param group where it was looked for; everywhere outside of groups by default
 */
export function nearIn(run: Run, typed: string, group?: CompiledGroup): MaybePromise<readonly string[]> {
  const near = nearEntries(typed, group?.members ?? run.catalogue.entries);
  if (near.length === 0) return [];
  const pick = (shows: Shows) =>
    near
      .filter(([, entry]) => isEntryShown(entry, shows))
      .slice(0, MOST_NEAR)
      .map(([name]) => (group === undefined ? name : `${group.name} ${name}`));
  const shows = showsTo(run);
  return isThenable(shows) ? shows.then(pick) : pick(shows);
}

const MOST_NEAR = 3;
