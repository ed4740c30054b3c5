/** `createCommandLayer`: takes inputs, gives outcomes. */
import { shown } from '../base/fields.js';
import { atOnce, inTime, patiently } from '../base/thenable.js';
import { after, durationMs } from '../base/time.js';
import { version } from '../base/version.js';
import type { Catalogue } from '../catalogue/catalogue.js';
import { compileCatalogue } from '../catalogue/compile.js';
import { botNeeds } from '../catalogue/needs.js';
import { DeclarationError } from '../catalogue/problem.js';
import { isUnfindable } from '../commands/arg.js';
import { leavesOf } from '../commands/requirements.js';
import type { Actor, User } from '../contract/actors.js';
import type { Input } from '../contract/input.js';
import type { Place } from '../contract/places.js';
import type { Platform, Serving } from '../contract/platform.js';
import { handle } from '../pipeline/runner.js';
import type { AnyStage, Course } from '../pipeline/stage.js';
import { courseOf, stages } from '../pipeline/stages.js';
import type { Closed, CommandLayer, CommandsOf } from './command-layer.js';
import { withInside } from './inside.js';
import { type LayerOptions, optionProblems } from './options.js';
import { bookLayer, type Wiring, wired } from './wiring.js';

/**
 * Makes a command layer of a set of commands.
 *
 * @throws DeclarationError naming every problem of every declaration.
 *
 * @example
 * const layer = createCommandLayer({ commands: [borrow, shelf], prefixes: ['!'] });
 * const outcome = await layer.handle(input, platform);
 */
export function createCommandLayer(options: LayerOptions): CommandLayer {
  return layerThrough(options, stages);
}

/** With stages of one's own choice; those that only refuse can be left out. */
export function layerThrough(options: LayerOptions, through: readonly AnyStage[]): CommandLayer {
  const problems = optionProblems(options);
  if (problems.length > 0) throw new DeclarationError(problems);
  let closed: Promise<Closed> | undefined;
  const servings = new Set<Serving>();
  const platforms = new Map<string, Platform>();
  /** Waits for the running calls; those that take too long are given up, and may still say so. How many these were. */
  async function endAll(withinMs: number, lastWordsMs: number): Promise<number> {
    const { open } = current;
    const { handlers } = needs.run;
    if (open.inputs === 0) return 0;
    const end = new Promise<void>((resolve) => {
      open.none = resolve;
    });
    const cancel = after(clock, withinMs, () => handlers.giveUpAll());
    // A platform that takes nothing any more must not hold it up.
    const cancelAll = after(clock, withinMs + lastWordsMs, () => open.none?.());
    await end;
    cancel();
    cancelAll();
    return handlers.givenUp;
  }

  /** The end of the time is for last words, for what is still to be written, and for the connections: a third each. */
  async function closeAll(withinMs: number): Promise<Closed> {
    const partMs = Math.min(LAST_WORDS_MS, Math.floor(withinMs / 6));
    const aborted = await endAll(withinMs - 3 * partMs, partMs);
    const { giveBacks, leases } = needs.limits;
    const { usage } = needs.settle;
    leases.close();
    await Promise.all([
      endInTime('what expires', partMs, () => wiring.beginning.delivery.expiring.all()),
      endInTime('usage', partMs, () => usage?.flush()),
      endInTime('what is to be given back', partMs, () => giveBacks.flush()),
    ]);
    usage?.stop();
    wiring.guilds.detach?.(current);
    await Promise.all([...servings].map((serving) => endInTime('what serves', partMs, () => serving.close())));
    servings.clear();
    events.tell('closed', { aborted });
    return { aborted };
  }

  /** Whatever hangs or fails at the end, the rest is done. */
  async function endInTime(what: string, withinMs: number, does: () => unknown): Promise<void> {
    try {
      await inTime(clock, withinMs, does);
    } catch (error) {
      log.warn({ error }, `Closing left ${what} undone`);
    }
  }

  function compiled(commands: CommandsOf): Catalogue {
    return compileCatalogue(typeof commands === 'function' ? atOnce(commands(layer)) : commands, options);
  }

  const layer: CommandLayer = {
    handle: (input, platform, handling) => handle(handling?.trace === true ? traced : course, input, platform),
    invoke(command, { args, as, place = nowhere, platform, trace = false }) {
      const caller: Actor = { kind: 'program', id: `program ${as}`, name: as };
      const path = [current.catalogue.of(command)?.name ?? command.declaration.name];
      const given = args as Record<string, unknown>;
      const input: Input = { surface: 'program', caller, place, options: given, at: clock.now(), path };
      return handle(trace ? traced : course, input, platform);
    },
    replace(commands) {
      const next = compiled(commands);
      const { commands: before, groups } = current.catalogue;
      for (const { name } of [...before, ...groups]) current.formerNames.add([name], true);
      current.catalogue = next;
      wiring.guilds.attach(bookLayer(wiring, options.languages));
    },
    on: (name, listener) => events.on(name, listener),
    close({ within = '10s' } = {}) {
      const withinMs = durationMs(within);
      if (withinMs === undefined) throw new TypeError(`close, within: ${shown(within)} does not read; write '10s'`);
      current.isClosing = true;
      asking?.close();
      closed ??= closeAll(withinMs);
      return closed;
    },
    async connected(platform, serving) {
      const other = platforms.get(platform.name);
      if (other !== undefined && other !== platform) {
        throw new TypeError(`Two platforms are called ${platform.name}; give one another name`);
      }
      platforms.set(platform.name, platform);
      if (serving !== undefined) servings.add(serving);
      asking?.connected(platform);
      try {
        await patiently(clock, auditPlatform(wiring, platform), patienceMs);
      } catch (error) {
        log.warn({ platform: platform.name, error }, 'A platform could not be looked at');
      }
      if (events.hearing.connected) events.tell('connected', { platform: platform.name, bot: await botOn(platform) });
    },
  };
  /** Who the bot is; unknown where the platform does not say so in time. */
  async function botOn({ directory }: Platform): Promise<User | undefined> {
    const given = await inTime(clock, patienceMs, () => directory.bot()).catch(() => undefined);
    return typeof given?.id === 'string' ? given : undefined;
  }

  const wiring = wired(options, compiled(options.commands));
  const { basis, current, needs } = wiring;
  const { clock, events, log, patienceMs } = basis;
  const asking = options.asking?.(wiring.asking, wiring, () => course);
  const course: Course = courseOf(through, { ...wiring, asking }, needs);
  const traced = { ...course, traces: true };
  const { scopes = {}, languages = [] } = options;
  Object.assign(layer, withInside({ ...wiring, version, course, platforms, scopes, languages }));
  wiring.guilds.attach(bookLayer(wiring, options.languages));
  return layer;
}

/** The longest third of the end. */
const LAST_WORDS_MS = 2000;

const nowhere: Place = { kind: 'console' };

// What does not fit between a bot and a platform it connects to, told in the log.
/** A permission, or the look-ups of an argument. */
const UNKNOWN = 'The platform lacks what is required';

type Audited = Pick<Wiring, 'basis' | 'current' | 'beginning' | 'guilds'>;

/** Names unknown permissions, look-ups and roles that are missing, and what the bot is not allowed there. */
async function auditPlatform({ basis, current, beginning, guilds }: Audited, platform: Platform): Promise<void> {
  const { name, directory, permissions } = platform;
  const { commands } = current.catalogue;
  const { rolesGiving } = beginning.rights;
  const warn = (fields: object, message: string) => basis.log.warn({ platform: name, ...fields }, message);
  const known = permissions && new Set([...permissions, ...rolesGiving.keys()]);
  const logical = new Set([...rolesGiving.values()].flat());
  for (const { name: command, requires, slots } of commands) {
    for (const { requirement } of requires) {
      for (const { parameters } of leavesOf(requirement)) {
        const { permission, role } = parameters;
        if (role !== undefined) logical.add(role);
        if (permission !== undefined && known?.has(permission) === false) warn({ command, permission }, UNKNOWN);
      }
    }
    for (const slot of slots.all) {
      if (isUnfindable(slot, directory)) warn({ command, argument: slot.name }, UNKNOWN);
    }
  }
  for (const guild of (await platform.guilds?.()) ?? []) {
    const { id } = guild;
    try {
      const { compiled } = await guilds.read(name, id);
      const roles = await directory.roles(guild);
      for (const role of logical) {
        if (!roles.some((one) => compiled.isRole(one, role)))
          warn({ guild: id, role }, 'A guild has no role for one of the bot’s own');
      }
      const bot = await directory.self(guild);
      for (const need of botNeeds(commands)) {
        if (bot?.permissions.has(need.permission) !== true)
          warn({ guild: id, ...need }, 'The bot is not allowed what its commands need');
      }
    } catch (error) {
      warn({ guild: id, error }, 'A guild could not be looked at');
    }
  }
}
