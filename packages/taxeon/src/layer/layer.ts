/** `createCommandLayer`: takes inputs, gives outcomes. */
import { foldName } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { after, durationMs } from '../base/time.js';
import { version } from '../base/version.js';
import type { Catalogue } from '../catalogue/catalogue.js';
import { compileCatalogue } from '../catalogue/compile.js';
import { DeclarationError } from '../catalogue/problem.js';
import type { Actor } from '../contract/actors.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Outcome } from '../contract/outcome.js';
import type { Place } from '../contract/places.js';
import type { Platform, Serving } from '../contract/platform.js';
import { watchFor } from '../delivery/hold.js';
import { advance, conclude, hear } from '../pipeline/advance.js';
import { begin } from '../pipeline/begin.js';
import { responderOf } from '../pipeline/call.js';
import type { Hearing } from '../pipeline/stage.js';
import { pipelineOf, stages } from '../pipeline/stages.js';
import type { Heard, Stopped } from '../pipeline/state.js';
import { auditPlatform } from './audit.js';
import type { Closed, CommandLayer, CommandsOf } from './command-layer.js';
import { insideKey, type WithInside } from './inside.js';
import { type LayerOptions, optionProblems } from './options.js';
import { bookLayer, makeServices } from './services.js';

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
export function layerThrough(options: LayerOptions, through: typeof stages): CommandLayer {
  const problems = optionProblems(options);
  if (problems.length > 0) throw new DeclarationError(problems);
  const pipeline = pipelineOf(through);
  let catalogue: Catalogue | undefined;
  /** Names of commands that were replaced, which people may still see where they are registered. */
  const formerNames = new Set<string>();
  /** Inputs that are on their way. */
  let open = 0;
  let isClosing = false;
  let allEnded: (() => void) | undefined;
  let closed: Promise<Closed> | undefined;
  const servings = new Set<Serving>();
  const services = makeServices(options, {
    catalogue() {
      if (catalogue === undefined)
        throw new Error('The layer is not made yet; ask it once createCommandLayer has given it');
      return catalogue;
    },
    wasThere: (name) => formerNames.has(foldName(name)),
    isClosing: () => isClosing,
  });
  const { clock, events } = services;

  function take(input: Input, platform: Platform | undefined, trace: boolean): Promise<Outcome> {
    const hearing = hear(pipeline, services, input, platform, false);
    if (typeof hearing === 'string') return ignoredPromises[hearing];
    return isThenable(hearing)
      ? Promise.resolve(hearing.then((heard) => goOn(heard, input, platform, trace)))
      : promised(goOn(hearing, input, platform, trace));
  }

  function goOn(hearing: Hearing, input: Input, platform: Platform | undefined, trace: boolean): MaybePromise<Outcome> {
    if (typeof hearing === 'string') return ignoredPromises[hearing];
    if (events.hearing.received) events.tell('received', { input, platform: platform?.name });
    open += 1;
    const nameAt = typeof hearing === 'number' ? hearing : 0;
    const heard = begin(pipeline, services, input, platform, { nameAt, looks: false, trace });
    if (typeof hearing !== 'number') return ended(conclude(pipeline, { state: heard, stop: hearing }));
    const stopped = advance(pipeline.steps, heard) as MaybePromise<Stopped>;
    if (!isThenable(stopped)) return ended(conclude(pipeline, stopped));
    const endWatch = watchFor(heard.conversation, () => hold(heard));
    return stopped.then((settled) => {
      endWatch?.();
      return ended(conclude(pipeline, settled));
    });
  }

  function ended(outcome: MaybePromise<Outcome>): MaybePromise<Outcome> {
    if (isThenable(outcome)) return outcome.then(endOne);
    return endOne(outcome);
  }

  function endOne(outcome: Outcome): Outcome {
    open -= 1;
    if (open === 0) allEnded?.();
    return outcome;
  }

  /** Waits for the running calls, and gives up those that take too long; how many these were. */
  async function endAll(withinMs: number): Promise<number> {
    if (open === 0) return 0;
    const end = new Promise<void>((resolve) => {
      allEnded = resolve;
    });
    let aborted = 0;
    const cancel = after(clock, withinMs, () => {
      aborted = services.handlers.size;
      for (const handler of [...services.handlers]) handler.giveUp();
    });
    // A platform that takes nothing any more must not hold it up.
    const cancelAll = after(clock, withinMs + LAST_WORDS_MS, () => allEnded?.());
    await end;
    cancel();
    cancelAll();
    return aborted;
  }

  async function closeAll(withinMs: number): Promise<Closed> {
    const aborted = await endAll(withinMs);
    await services.delivery.expiring.all();
    await services.usage?.flush();
    services.usage?.stop();
    events.tell('closed', { aborted });
    await Promise.allSettled([...servings].map((serving) => serving.close()));
    servings.clear();
    return { aborted };
  }

  function compiled(commands: CommandsOf): Catalogue {
    return compileCatalogue(typeof commands === 'function' ? commands(layer) : commands, options);
  }

  const layer: CommandLayer & WithInside = {
    handle: (input, platform, handling) => take(input, platform, handling?.trace === true),
    invoke(command, { args, as, place = nowhere, platform, trace = false }) {
      const caller: Actor = { kind: 'program', id: `program ${as}`, name: as };
      const path = [services.catalogue.of(command)?.name ?? command.declaration.name];
      const given = args as Record<string, unknown>;
      return take({ surface: 'program', caller, place, options: given, at: clock.now(), path }, platform, trace);
    },
    replace(commands) {
      const next = compiled(commands);
      for (const { name } of [...services.catalogue.commands, ...services.catalogue.groups]) {
        formerNames.add(foldName(name));
      }
      catalogue = next;
      services.guilds.attach(bookLayer(services));
    },
    on: (name, listener) => events.on(name, listener),
    close({ within = '10s' } = {}) {
      isClosing = true;
      closed ??= closeAll(durationMs(within) ?? 0);
      return closed;
    },
    async connected(platform, serving) {
      if (serving !== undefined) servings.add(serving);
      await auditPlatform(services, platform);
      events.tell('ready', { platform: platform.name });
    },
    [insideKey]: { version, services, pipeline, scopes: options.scopes ?? {} },
  };
  catalogue = compiled(options.commands);
  services.guilds.attach(bookLayer(services));
  return layer;
}

function hold(heard: Heard): void {
  void responderOf(heard)?.hold();
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

function promised(outcome: MaybePromise<Outcome>): Promise<Outcome> {
  return isThenable(outcome) ? (outcome as Promise<Outcome>) : Promise.resolve(outcome);
}
