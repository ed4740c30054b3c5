/** `createCommandLayer`: takes inputs, gives outcomes. */
import { foldName } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { after, type Duration, durationMs } from '../base/time.js';
import { compileCatalogue } from '../catalogue/compile.js';
import { DeclarationError } from '../catalogue/problem.js';
import type { Command } from '../commands/command.js';
import type { CommandOrGroup } from '../commands/group.js';
import type { Actor, Member } from '../contract/actors.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Outcome } from '../contract/outcome.js';
import type { GuildPlace, Place } from '../contract/places.js';
import type { InputHandler, Platform } from '../contract/platform.js';
import type { RegistrationScope } from '../contract/registrar.js';
import type { Limit, LiveLimit } from '../contract/store.js';
import type { EventName, LayerEvents } from '../observe/events.js';
import { Recorder } from '../observe/recorder.js';
import { Timings } from '../observe/timings.js';
import { readUsage, type UsageCount } from '../observe/usage.js';
import { advance } from '../pipeline/advance.js';
import { type Conclusion, conclude } from '../pipeline/conclude.js';
import { passedBecause } from '../pipeline/reasons.js';
import { RecentIds } from '../pipeline/recent.js';
import { type Purpose, Run } from '../pipeline/run-object.js';
import { watch } from '../pipeline/waiting.js';
import { type AccessTable, accessTable, type BotNeed, botNeeds } from '../queries/access-table.js';
import type { Suggestion } from '../queries/completion/complete.js';
import { Completions } from '../queries/completion/completions.js';
import { type Explanation, explainStop, ignoredExplanation } from '../queries/explain.js';
import type { Help } from '../queries/help/data.js';
import { helpDataFor } from '../queries/help/for.js';
import { type Manifest, type ManifestOptions, manifestOf } from '../queries/manifest.js';
import { beginsCommand, type PrefixMatcher, prefixMatcher } from '../reading/prefix.js';
import { writeLine } from '../reading/write.js';
import { auditPlatform } from './audit.js';
import { type LayerOptions, optionProblems } from './options.js';
import { bookLayer, makeServices } from './services.js';

export interface HandleOptions {
  /** Whether the outcome carries a trace of the stages. */
  readonly trace?: boolean;
}

/** How the bot's own code runs a command. */
export interface Invocation<Given> {
  readonly args: Given;
  /** Which part of the bot is calling, as replies and logs name it. */
  readonly as: string;
  /** Where it is meant to happen; nowhere in particular by default. */
  readonly place?: Place;
  readonly platform?: Platform;
  readonly trace?: boolean;
}

export interface CloseOptions {
  /** How long the running calls may go on; 10 s by default. */
  readonly within?: Duration;
}

export interface Closed {
  /** How many calls were given up. */
  readonly aborted: number;
}

/** The uses that count now, in the layer's store. */
export interface LimitsDesk {
  /** All that is live, or that of one key: a person's id, a guild's. */
  live(key?: string): Promise<readonly LiveLimit[]>;
  /** Forgets what a key has used of a limit; whether there was anything. */
  reset(id: string, key: string): Promise<boolean>;
  /** Gives one use back that was taken at a time. */
  giveBack(limit: Limit, key: string, at: number): Promise<void>;
}

export interface CommandLayer extends InputHandler {
  /**
   * Takes one input through all stages. Ordinary chat resolves at once.
   * Never rejects for anything that a user of the bot can send.
   */
  handle(input: Input, platform?: Platform, options?: HandleOptions): Promise<Outcome>;
  /** Runs a command from the bot's own code, with the same checks, limits and outcomes as everywhere. */
  invoke<Given>(command: Command<Given>, invocation: Invocation<NoInfer<Given>>): Promise<Outcome>;
  /** What `handle` would do, stage by stage: runs no handler, says nothing, uses up no limit. */
  explain(input: Input, platform?: Platform): Promise<Explanation>;
  /** Looking at what is counted, and taking it back. */
  readonly limits: LimitsDesk;
  /** Who may run what in a guild: commands × roles, and a person's own column where one is named. */
  access(place: GuildPlace, platform: Platform, person?: Member): Promise<AccessTable>;
  /** What the bot itself must be allowed, over all commands: what to ask for before it is invited. */
  needs(): readonly BotNeed[];
  /**
   * Swaps the catalogue whole. Calls under way finish on the one they began with; settings, counts and cooldowns
   * go by the commands' ids, so that they outlast a rename.
   *
   * @throws DeclarationError naming every problem; the catalogue stays as it was.
   */
  replace(commands: readonly CommandOrGroup[]): void;
  /**
   * What could stand where somebody is typing, best first; nothing that they may not run. A later call for the
   * same person in the same place makes an earlier one give nothing.
   *
   * @param at where the cursor is in the text, in UTF-16 code units; for a slash command the option's name
   */
  complete(input: Input, at: number | string, platform?: Platform): Promise<readonly Suggestion[]>;
  /** What people see of the commands where slash commands are registered, and where that is. */
  manifest(options?: ManifestOptions): Manifest;
  /** The scopes behind a name: `'global'`, a set of guilds from `scopes`, or a guild's id. */
  scopesNamed(name: string): readonly RegistrationScope[];
  /** Help as data: what somebody may run here, or all about one command or group. */
  help(input: Input, name?: string, platform?: Platform): Promise<Help>;
  /** Calls a listener at every event of a kind; gives what ends that. */
  on<Name extends EventName>(name: Name, listener: (event: LayerEvents[Name]) => unknown): () => void;
  /** How often which command ended how, by guild and day; what this process has counted, and all others up to 10 s ago. */
  usage(): Promise<readonly UsageCount[]>;
  /**
   * Takes no more inputs, lets the running calls finish, gives up those that are not finished in time, and
   * writes what is still to be written. The store stays open.
   */
  close(options?: CloseOptions): Promise<Closed>;
  /**
   * The line that a person would type to call a command with these values, without prefix.
   *
   * @throws TypeError where a value's kind says no way to write it.
   */
  write<Given>(command: Command<Given>, args: NoInfer<Given>): string;
}

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
  const problems = optionProblems(options);
  if (problems.length > 0) throw new DeclarationError(problems);
  let catalogue = compileCatalogue(options.commands, options);
  /** Names of commands that were replaced, which people may still see where they are registered. */
  const formerNames = new Set<string>();
  const { services, settings } = makeServices(options, {
    catalogue: () => catalogue,
    wasThere: (name) => formerNames.has(foldName(name)),
    runEnded() {
      open -= 1;
      if (open === 0) allEnded?.();
    },
  });
  const { clock, store } = services;
  /** Runs that have begun and not ended. */
  let open = 0;
  let isClosing = false;
  let allEnded: (() => void) | undefined;
  settings.attach(bookLayer(services));
  const everywhere = prefixMatcher(options.prefixes ?? []);
  const matcherOf = (place: Place): PrefixMatcher =>
    place.kind === 'guild' ? (settings.of(place.guild.id).prefixes ?? everywhere) : everywhere;
  const { mentionIsPrefix = true, prefixInDirect = 'required' } = options;
  const recent = new RecentIds();
  const completions = new Completions(services);

  /** Stages 1 and 2: where the command begins, or why nobody is answered. */
  function matched(input: Input, platform: Platform | undefined): number | Ignored['because'] {
    const { caller, surface, text = '', place } = input;
    if (isBot(caller)) return 'bot';
    if (surface !== 'text' && surface !== 'console') return 0;
    const nameAt = matcherOf(place).match(text);
    if (nameAt >= 0) return nameAt;
    if (surface === 'console') return 0;
    const behindMention = mentionIsPrefix ? (platform?.directory.addressed?.(text, place) ?? -1) : -1;
    if (behindMention >= 0 && beginsCommand(text, behindMention)) return behindMention;
    return prefixInDirect === 'optional' && place.kind === 'direct' && beginsCommand(text, 0) ? 0 : 'chat';
  }

  /** Where a command's name begins or would begin, before the cursor; -1 in ordinary chat. */
  function nameBefore(input: Input, cursor: number, platform: Platform | undefined): number {
    const { text = '', surface } = input;
    const at = surface === 'console' ? 0 : -1;
    const match = matched({ ...input, text: `${text.slice(0, cursor)}x` }, platform);
    return typeof match === 'number' ? match : at;
  }

  function begin(input: Input, platform: Platform | undefined, nameAt: number, purpose: Purpose, trace: boolean): Run {
    const recorder = trace ? new Recorder(clock) : undefined;
    const run = new Run(services, input, platform, nameAt, purpose, recorder);
    if (services.events.timesEndings && purpose === 'run') run.timings = new Timings(clock);
    recorder?.passed('intake', passedBecause('intake', run));
    recorder?.passed('match', passedBecause('match', run));
    return run;
  }

  /** All stages of a run, and its outcome. */
  function carryOut(run: Run): Promise<Outcome> {
    open += 1;
    if (isClosing) return promised(conclude(run, closing));
    const stop = advance(run);
    if (!isThenable(stop)) return promised(conclude(run, stop as Conclusion));
    run.unwatch = watch(run);
    return promised(stop.then((settled) => conclude(run, settled as Conclusion)));
  }

  /** Waits for the running calls, and gives up those that take too long; how many these were. */
  async function endAll(withinMs: number): Promise<number> {
    if (open === 0) return 0;
    const ended = new Promise<void>((resolve) => {
      allEnded = resolve;
    });
    let aborted = 0;
    const cancel = after(clock, withinMs, () => {
      aborted = services.running.size;
      for (const run of [...services.running]) run.giveUp?.();
    });
    // A platform that takes nothing any more must not hold it up.
    const cancelAll = after(clock, withinMs + LAST_WORDS_MS, () => allEnded?.());
    await ended;
    cancel();
    cancelAll();
    return aborted;
  }

  let closed: Promise<Closed> | undefined;

  return {
    handle(input, platform, handling) {
      const match = matched(input, platform);
      if (typeof match === 'string') return ignoredPromises[match];
      if (input.id !== undefined && recent.seen(platform?.name ?? '', input.id)) return ignoredPromises.repeated;
      if (services.events.hearing.received) services.events.tell('received', { input, platform: platform?.name });
      return carryOut(begin(input, platform, match, 'run', handling?.trace === true));
    },
    invoke(command, { args, as, place = nowhere, platform, trace = false }) {
      const caller: Actor = { kind: 'program', id: `program ${as}`, name: as };
      const input: Input = {
        surface: 'program',
        caller,
        place,
        options: args as Record<string, unknown>,
        at: clock.now(),
        path: [services.catalogue.of(command)?.name ?? command.declaration.name],
      };
      return carryOut(begin(input, platform, 0, 'run', trace));
    },
    async explain(input, platform) {
      const match = matched(input, platform);
      if (typeof match === 'string') return ignoredExplanation(match);
      const run = begin(input, platform, match, 'explain', true);
      return explainStop(run, await advance(run));
    },
    async connected(platform) {
      await auditPlatform(services, platform);
      services.events.tell('ready', { platform: platform.name });
    },
    replace(commands) {
      const next = compileCatalogue(commands, options);
      for (const { name } of [...catalogue.commands, ...catalogue.groups]) formerNames.add(foldName(name));
      catalogue = next;
      settings.attach(bookLayer(services));
    },
    complete(input, at, platform) {
      if (isBot(input.caller)) return Promise.resolve([]);
      const nameAt = typeof at === 'number' ? nameBefore(input, at, platform) : 0;
      if (nameAt < 0) return Promise.resolve([]);
      return completions.of(new Run(services, input, platform, nameAt, 'explain', undefined), at);
    },
    manifest: (manifesting) => manifestOf(catalogue, manifesting),
    scopesNamed: (name) =>
      name === 'global' ? ['global'] : (options.scopes?.[name] ?? [name]).map((guild) => ({ guild })),
    help(input, name, platform) {
      const text = input.text ?? '';
      const matched = matcherOf(input.place).match(text);
      const run = new Run(services, input, platform, Math.max(0, matched), 'explain', undefined);
      return helpDataFor(run, name);
    },
    on: (name, listener) => services.events.on(name, listener),
    async usage() {
      await services.usage?.flush();
      return readUsage(store);
    },
    close({ within = '10s' } = {}) {
      isClosing = true;
      closed ??= endAll(durationMs(within) ?? 0).then(async (aborted) => {
        await services.expiring.all();
        await services.usage?.flush();
        services.usage?.stop();
        services.events.tell('closed', { aborted });
        return { aborted };
      });
      return closed;
    },
    access: (place, platform, person) => accessTable(services, place, platform, person),
    limits: {
      live: async (key) => (await store.live()).filter((one) => key === undefined || one.key.split(' ').includes(key)),
      reset: async (id, key) => store.reset(id, key),
      giveBack: async (limit, key, at) => store.giveBack([limit], [key], at),
    },
    needs: () => botNeeds(services.catalogue.commands),
    write(command, args) {
      const compiled = services.catalogue.of(command);
      if (compiled === undefined) throw new TypeError(`${command.declaration.name} is not in this layer`);
      return writeLine(compiled.name, compiled.slots, args as Record<string, unknown>);
    },
  };
}

/** How long those that were given up may take to say so. */
const LAST_WORDS_MS = 2000;

const nowhere: Place = { kind: 'console' };

/** Shared, so that ordinary chat allocates nothing. */
const ignoredPromises: Readonly<Record<Ignored['because'], Promise<Ignored>>> = {
  chat: Promise.resolve({ status: 'ignored', because: 'chat' }),
  bot: Promise.resolve({ status: 'ignored', because: 'bot' }),
  repeated: Promise.resolve({ status: 'ignored', because: 'repeated' }),
};

function isBot(caller: Actor): boolean {
  return (caller.kind === 'member' || caller.kind === 'user') && caller.isBot === true;
}

const closing: Conclusion = { status: 'refused', by: 'layer', code: 'layer.closing', parameters: {} };

function promised(outcome: MaybePromise<Outcome>): Promise<Outcome> {
  return Promise.resolve(outcome);
}
