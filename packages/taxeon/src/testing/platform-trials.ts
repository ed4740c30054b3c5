/** The conformance suite of the platform contract: what every adapter must do, as named trials. */

import { command } from '../commands/command.js';
import { tail } from '../commands/kinds/text.js';
import type { Input } from '../contract/input.js';
import type { Outcome } from '../contract/outcome.js';
import type { Platform, Serving } from '../contract/platform.js';
import { guildOf } from '../contract/platform.js';
import { createCommandLayer } from '../layer/layer.js';

/** What a suite needs to drive an adapter from the other side of its chat system. */
export interface PlatformProbe {
  readonly platform: Platform;
  /** Somebody who is in the guild, as the platform shows their name. */
  readonly somebody: { readonly name: string };
  /** Types a line in the guild's channel, as `somebody`. */
  type(line: string): Promise<void>;
  /** The next line that the bot says in the channel; rejects when none comes in good time. */
  heard(): Promise<string>;
}

/** One promise of the contract, and how to try it; `run` rejects where it is not held. */
export interface PlatformTrial {
  readonly name: string;
  run(probe: PlatformProbe): Promise<void>;
}

/**
 * The trials of an adapter, for any test runner.
 *
 * @example
 * for (const trial of platformTrials) test(trial.name, () => trial.run(probe));
 */
export const platformTrials: readonly PlatformTrial[] = [
  {
    name: 'hands a typed line to the layer, and its reply to the channel',
    run: (probe) =>
      serving(probe, async (seen) => {
        await probe.type('!label oiled today');
        expectEqual(await probe.heard(), 'oiled today', 'the reply');
        const { input, outcome } = await seen();
        expectEqual(outcome.status, 'completed', 'the status');
        expectEqual(input.surface, 'text', 'the surface');
        expectEqual(input.caller.name, probe.somebody.name, "the caller's name");
        expectEqual(input.place.kind, 'guild', 'the place');
      }),
  },
  {
    name: 'passes ordinary chat along and says nothing to it',
    run: (probe) =>
      serving(probe, async (seen) => {
        await probe.type('good morning');
        expectEqual((await seen()).outcome.status, 'ignored', 'the status');
        await probe.type('!label next');
        expectEqual(await probe.heard(), 'next', 'the first thing said');
      }),
  },
  {
    name: 'says every line of a reply',
    run: (probe) =>
      serving(probe, async () => {
        await probe.type('!shelves');
        expectEqual(await probe.heard(), 'upper', 'the first line');
        expectEqual(await probe.heard(), 'lower', 'the second line');
      }),
  },
  {
    name: 'gives one id to one person, and finds them by it and by name',
    run: (probe) =>
      serving(probe, async (seen) => {
        await probe.type('!label a');
        await probe.type('!label b');
        const first = (await seen()).input;
        const second = (await seen()).input;
        expectEqual(second.caller.id, first.caller.id, "the caller's id");
        const guild = guildOf(first.place);
        if (guild === undefined) throw new Error('the input is in no guild');
        const { directory } = probe.platform;
        expectEqual(
          (await directory.member(guild, first.caller.id))?.name,
          probe.somebody.name,
          'the member of the id',
        );
        const named = await directory.membersNamed(guild, probe.somebody.name);
        expectEqual(named[0]?.id, first.caller.id, 'the member of the name');
      }),
  },
  {
    name: 'knows the bot itself in the guild, and nobody who is not there',
    run: (probe) =>
      serving(probe, async (seen) => {
        await probe.type('!label a');
        const guild = guildOf((await seen()).input.place);
        if (guild === undefined) throw new Error('the input is in no guild');
        const { directory } = probe.platform;
        if ((await directory.self(guild)) === undefined) throw new Error('the bot does not know itself');
        expectEqual(await directory.member(guild, 'nobody at all'), undefined, 'the member of an unknown id');
        expectEqual((await directory.membersNamed(guild, 'nobody-at-all')).length, 0, 'how many are named so');
      }),
  },
  {
    name: 'says once that it is connected, with what serves, and who the bot is',
    async run({ platform }) {
      const told: (Serving | undefined)[] = [];
      const served = await platform.serve({
        handle: async () => ({ status: 'ignored', because: 'chat' }),
        async connected(connected, serving) {
          if (connected !== platform) throw new Error('another platform is connected than the one that is served');
          told.push(serving);
        },
      });
      try {
        expectEqual(told.length, 1, 'how often `connected` was called');
        if (typeof told[0]?.close !== 'function') throw new Error('`connected` was not given what serves');
        const bot = await platform.directory.bot();
        if (typeof bot?.id !== 'string' || bot.id === '') throw new Error('the directory does not say who the bot is');
      } finally {
        await served.close();
      }
    },
  },
  {
    name: 'takes nothing more once it is closed',
    async run(probe) {
      let inputs = 0;
      const layer = {
        handle: (): Promise<Outcome> =>
          Promise.resolve({ status: 'ignored', because: 'chat', seen: ++inputs } as Outcome),
      };
      const served = await probe.platform.serve(layer);
      await served.close();
      await probe.type('!label into the void').catch(() => undefined);
      await new Promise((resolve) => setTimeout(resolve, 50));
      expectEqual(inputs, 0, 'how many inputs came');
    },
  },
];

interface Seen {
  readonly input: Input;
  readonly outcome: Outcome;
}

const label = command({
  name: 'label',
  description: 'Write a label',
  args: { text: tail() },
  run: ({ args }) => args.text,
});

const shelves = command({
  name: 'shelves',
  description: 'Name two shelves',
  run: () => ({ heading: 'upper', body: 'lower' }),
});

/** Serves a small layer for one trial; `seen` gives each input with its outcome, in order. */
async function serving(
  { platform }: PlatformProbe,
  trial: (seen: () => Promise<Seen>) => Promise<void>,
): Promise<void> {
  const layer = createCommandLayer({ commands: [label, shelves], prefixes: ['!'] });
  const queue: Seen[] = [];
  const waiting: ((seen: Seen) => void)[] = [];
  const served = await platform.serve({
    async handle(input, from) {
      const outcome = await layer.handle(input, from);
      const next = waiting.shift();
      if (next === undefined) queue.push({ input, outcome });
      else next({ input, outcome });
      return outcome;
    },
  });
  try {
    await trial(async () => queue.shift() ?? new Promise((resolve) => waiting.push(resolve)));
  } finally {
    await served.close();
  }
}

function expectEqual(actual: unknown, expected: unknown, what: string): void {
  if (actual !== expected)
    throw new Error(`${what} is ${JSON.stringify(actual)}, expected ${JSON.stringify(expected)}`);
}
