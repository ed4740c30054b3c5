/** `createCommandLayer`: takes inputs, gives outcomes. */
import type { ActorRights } from '../access/standing.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { type Clock, type Duration, durationMs, systemClock } from '../base/time.js';
import { isTimeZone } from '../base/zone.js';
import { DeclarationError, type DeclarationProblem } from '../catalogue/check.js';
import { type CompiledCommand, compileCatalogue } from '../catalogue/compile.js';
import type { Command } from '../commands/command.js';
import type { Actor } from '../contract/actors.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Outcome } from '../contract/outcome.js';
import type { Place } from '../contract/places.js';
import { guildOf, type InputHandler, type Platform } from '../contract/platform.js';
import { memoryStore } from '../limits/memory.js';
import type { Limit, Store } from '../limits/store.js';
import { beginsCommand, type PrefixMatcher, prefixMatcher } from '../reading/prefix.js';
import { writeLine } from '../reading/write.js';
import { advance } from './advance.js';
import { conclude } from './conclude.js';
import { type Explanation, explainStop, ignoredExplanation } from './explain.js';
import { consoleLog, type Log, randomReference } from './log.js';
import { passedBecause } from './reasons.js';
import { RecentIds } from './recent.js';
import { Recorder } from './recorder.js';
import { type Purpose, Run, type Services } from './run.js';
import type { Stop } from './stages.js';

/** What one guild has of its own. */
export interface GuildSettings {
  /** In place of the layer's. */
  readonly prefixes?: readonly string[];
  /** IANA name, in place of the layer's. */
  readonly timeZone?: string;
}

export interface LayerOptions {
  readonly commands: readonly Command[];
  /** What a command in a message begins with. Without one, text is all chat. */
  readonly prefixes?: readonly string[];
  /** Whether mentioning the bot is a prefix, too; yes by default. */
  readonly mentionIsPrefix?: boolean;
  /** Whether a direct message needs a prefix; `'required'` by default. */
  readonly prefixInDirect?: 'required' | 'optional';
  /** In which dates and times are read; an IANA name, `'UTC'` by default. */
  readonly timeZone?: string;
  /** How long a resolver, a default or a check of yours may take to settle; 10 s by default. */
  readonly patience?: Duration;
  /** Settings by guild id. */
  readonly guilds?: Readonly<Record<string, GuildSettings>>;
  /** What the console may do; nothing by default. */
  readonly console?: ActorRights;
  /** What the bot's own code may do through `invoke`; nothing by default. */
  readonly program?: ActorRights;
  /** Where uses are remembered; this process's memory by default. */
  readonly store?: Store;
  readonly clock?: Clock;
  readonly log?: Log;
  /** Makes the short reference under which a failure stands in the log. */
  readonly reference?: () => string;
}

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
  const clock = options.clock ?? systemClock;
  const services: Services = {
    catalogue: compileCatalogue(options.commands),
    rights: { console: options.console ?? {}, program: options.program ?? {} },
    store: options.store ?? memoryStore({ clock }),
    clock,
    log: options.log ?? consoleLog,
    reference: options.reference ?? randomReference,
    limitsOf: limitsByPlatform(),
    timeZoneOf: timeZoneByPlace(options),
    patienceMs: durationMs(options.patience ?? '10s') ?? 0,
  };
  const matcherOf = prefixesByPlace(options);
  const { mentionIsPrefix = true, prefixInDirect = 'required' } = options;
  const recent = new RecentIds();

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

  function begin(input: Input, platform: Platform | undefined, nameAt: number, purpose: Purpose, trace: boolean): Run {
    const recorder = trace ? new Recorder(clock) : undefined;
    const run = new Run(services, input, platform, nameAt, purpose, recorder);
    recorder?.passed('intake', passedBecause('intake', run));
    recorder?.passed('match', passedBecause('match', run));
    return run;
  }

  return {
    handle(input, platform, handling) {
      const match = matched(input, platform);
      if (typeof match === 'string') return ignoredPromises[match];
      if (input.id !== undefined && recent.seen(platform?.name ?? '', input.id)) return ignoredPromises.repeated;
      const run = begin(input, platform, match, 'run', handling?.trace === true);
      return promised(finish(run, advance(run)));
    },
    invoke(command, { args, as, place = nowhere, platform, trace = false }) {
      const caller: Actor = { kind: 'program', id: `program ${as}`, name: as };
      const input: Input = {
        surface: 'program',
        caller,
        place,
        options: args as Record<string, unknown>,
        at: clock.now(),
        path: [command.declaration.name],
      };
      const run = begin(input, platform, 0, 'run', trace);
      return promised(finish(run, advance(run)));
    },
    async explain(input, platform) {
      const match = matched(input, platform);
      if (typeof match === 'string') return ignoredExplanation(match);
      const run = begin(input, platform, match, 'explain', true);
      return explainStop(run, await advance(run));
    },
    write(command, args) {
      const compiled = services.catalogue.of(command);
      if (compiled === undefined) throw new TypeError(`${command.declaration.name} is not in this layer`);
      return writeLine(compiled.name, compiled.slots, args as Record<string, unknown>);
    },
  };
}

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

function finish(run: Run, stop: MaybePromise<Stop>): MaybePromise<Outcome> {
  return isThenable(stop)
    ? stop.then((settled) => finish(run, settled))
    : conclude(run, stop as Exclude<Stop, { status: 'runs' }>);
}

function promised(outcome: MaybePromise<Outcome>): Promise<Outcome> {
  return Promise.resolve(outcome);
}

/** A platform's name is part of a limit's id, since ids of two platforms may be the same. */
function limitsByPlatform(): Services['limitsOf'] {
  const platforms = new Map<string, Map<CompiledCommand, readonly Limit[]>>();
  return (command, platform) => {
    let commands = platforms.get(platform);
    if (commands === undefined) {
      commands = new Map();
      platforms.set(platform, commands);
    }
    let limits = commands.get(command);
    if (limits === undefined) {
      limits = command.counted.map(({ by, uses, windowMs }) => ({
        id: `${platform}/${command.id}/${by}`,
        uses,
        windowMs,
      }));
      commands.set(command, limits);
    }
    return limits;
  };
}

function prefixesByPlace({ prefixes = [], guilds = {} }: LayerOptions): (place: Place) => PrefixMatcher {
  const everywhere = prefixMatcher(prefixes);
  const own = new Map<string, PrefixMatcher>();
  for (const [id, settings] of Object.entries(guilds)) {
    if (settings.prefixes !== undefined) own.set(id, prefixMatcher(settings.prefixes));
  }
  if (own.size === 0) return () => everywhere;
  return (place) => own.get(guildOf(place)?.id ?? '') ?? everywhere;
}

function timeZoneByPlace({ timeZone = 'UTC', guilds = {} }: LayerOptions): Services['timeZoneOf'] {
  return (place) => guilds[guildOf(place)?.id ?? '']?.timeZone ?? timeZone;
}

function optionProblems(options: LayerOptions): DeclarationProblem[] {
  const problems = prefixProblems(options);
  const zones: [string, string | undefined][] = [['timeZone', options.timeZone]];
  for (const [id, settings] of Object.entries(options.guilds ?? {}))
    zones.push([`guilds.${id}.timeZone`, settings.timeZone]);
  for (const [field, zone] of zones) {
    if (zone === undefined || isTimeZone(zone)) continue;
    problems.push({
      command: '(layer)',
      field,
      problem: `${JSON.stringify(zone)} is no time zone; give a name such as 'Europe/London'`,
    });
  }
  if (options.patience !== undefined && durationMs(options.patience) === undefined) {
    problems.push({
      command: '(layer)',
      field: 'patience',
      problem: `${JSON.stringify(options.patience)} does not read; write '10s'`,
    });
  }
  return problems;
}

function prefixProblems({ prefixes = [], guilds = {} }: LayerOptions): DeclarationProblem[] {
  const lists: [string, readonly string[]][] = [['prefixes', prefixes]];
  for (const [id, settings] of Object.entries(guilds)) lists.push([`guilds.${id}.prefixes`, settings.prefixes ?? []]);
  return lists.flatMap(([field, list]) =>
    list
      .filter((prefix) => prefix === '' || prefix !== prefix.trim())
      .map((prefix) => ({
        command: '(layer)',
        field,
        problem: `${JSON.stringify(prefix)} is empty or has space around it; trim it`,
      })),
  );
}
