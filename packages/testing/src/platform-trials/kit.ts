/** What a trial of an adapter is made of: the other side of its chat, a small layer, and what came of each input. */

import { type CommandLayer, command, createCommandLayer, type Guild, type Outcome } from 'taxeon';
import { tail } from 'taxeon/arg';
import { type Directory, emptyDirectory, type Input, type Platform, PlatformError } from 'taxeon/platform';
import type { Trial } from '../trial.js';
/**
 * What a suite needs to drive an adapter from the other side of its chat system. What the system does not have is left
 * out; the trials of it are then skipped, unless the adapter claims it.
 */
export interface PlatformProbe {
  /** A new one, which nobody serves. */
  readonly platform: Platform;
  /** A person who is in the guild, as the platform shows their name. */
  readonly somebody: { readonly name: string };
  /** Types a line in the guild's channel, as `somebody`; left out where a system has slash commands alone. */
  type?(line: string): Promise<void>;
  /** The next line that the bot says in the channel, as everybody there reads it; rejects when none comes in good time. */
  heard(): Promise<string>;
  /** Another person who is there and types, or uses slash commands. */
  readonly other?: {
    readonly name: string;
    type?(line: string): Promise<void>;
    invoke?(path: readonly string[], options: Readonly<Record<string, string>>): Promise<void>;
  };
  /** Types a line to the bot alone, as `somebody`. */
  whisper?(line: string): Promise<void>;
  /** The next line that the bot says to `somebody` alone. */
  heardAlone?(): Promise<string>;
  /** Uses a slash command in the guild's channel, as `somebody`. */
  invoke?(path: readonly string[], options: Readonly<Record<string, string>>): Promise<void>;
  /** How a line begins that speaks to the bot: `Mallet: `. */
  readonly addressing?: string;
  /** Hands over the latest line once more, as a system does that is not sure. */
  redeliver?(): Promise<void>;
  /** All that the bot has said in the channel and that stands there now, a text for each message. */
  shown?(): Promise<readonly string[]>;
  /** Whether a line that a person typed in the channel stands there still. */
  stands?(line: string): Promise<boolean>;
}

export interface SeenInput {
  readonly input: Input;
  readonly outcome: Outcome;
}

export interface Served {
  /** The next input with its outcome, in the order in which they came; chat counts, too. */
  seen(): Promise<SeenInput>;
  /** The guild of an input that has come. */
  guildOf(input: Input): Guild;
  readonly layer: CommandLayer;
}

const PATIENCE_MS = 10_000;
/** Of what must not come. */
export const A_WHILE_MS = 50;

const text = { text: tail() };

/** The commands of the small layer; the slow one takes longer than the platform waits, the long one says more than fits. */
const commandsFor = (slowMs: number, words: string) => [
  command({ name: 'label', description: 'Write a label', args: text, run: ({ args }) => args.text }),
  command({
    name: 'whispered',
    description: 'Write a label for oneself',
    args: text,
    visibleTo: 'caller',
    run: ({ args }) => args.text,
  }),
  command({ name: 'long', description: 'Say much', visibleTo: 'caller-if-possible', run: () => words }),
  command({ name: 'shelves', description: 'Name shelves', run: () => ({ heading: 'upper', body: 'middle\nlower' }) }),
  command({
    name: 'burst',
    description: 'Say ten things',
    async run({ reply }) {
      for (let n = 1; n < 10; n++) await reply(`thing ${n}`);
      return 'thing 10';
    },
  }),
  command({
    name: 'corrected',
    description: 'Say something, and then say it better',
    async run({ reply }) {
      const said = await reply('a hamer');
      return (await said.edit('a hammer')) ? undefined : 'not changed';
    },
  }),
  command({
    name: 'withdrawn',
    description: 'Say something, and take it back',
    async run({ reply }) {
      const said = await reply('never mind');
      await reply('what stays');
      await said.remove();
      return undefined;
    },
  }),
  command({
    name: 'told',
    description: 'Tell the caller alone',
    args: text,
    async run({ args, tell, caller }) {
      if (caller.kind !== 'member') return 'not a member';
      return tell(caller, args.text);
    },
  }),
  command({
    name: 'posted',
    description: 'Post it',
    args: text,
    async run({ args, post, channel }) {
      if (channel === undefined) return 'no channel';
      await post(channel, args.text);
      return undefined;
    },
  }),
  command({
    name: 'tidied',
    description: 'Take away what was typed',
    run: async ({ removeInput }) => ((await removeInput()) ? 'tidy' : 'not tidy'),
  }),
  command({
    name: 'slow',
    description: 'Take a while',
    async run() {
      await trialPause(slowMs);
      return 'at last';
    },
  }),
];

/** A trial while a small layer is served. */
export function platformTrial(
  name: string,
  trial: (probe: PlatformProbe, served: Served) => Promise<string | undefined | void>,
): Trial<PlatformProbe> {
  return { name, run: (probe) => serving(probe, (served) => trial(probe, served)) };
}

export async function serving(
  { platform }: PlatformProbe,
  trial: (served: Served) => Promise<string | undefined | void>,
): Promise<string | undefined> {
  const { replyDeadlineMs = 0, longestReply = 1800 } = platform.capabilities;
  const commands = commandsFor(replyDeadlineMs + 200, textOfLength(Math.min(longestReply * 2, 4000)));
  const log = { error: () => undefined, warn: () => undefined };
  const layer = createCommandLayer({ commands, prefixes: ['!'], log });
  const queue: Promise<SeenInput>[] = [];
  const waiting: ((seen: Promise<SeenInput>) => void)[] = [];
  const served = await inTrialTime(
    'serving',
    platform.serve({
      handle(input, from) {
        const handled = layer.handle(input, from);
        const next = handled.then((outcome) => ({ input, outcome }));
        const take = waiting.shift();
        if (take === undefined) queue.push(next);
        else take(next);
        return handled;
      },
    }),
  );
  const seen = () =>
    inTrialTime('an input', queue.shift() ?? new Promise<SeenInput>((resolve) => waiting.push(resolve)));
  try {
    return (await trial({ seen, guildOf: guildOfInput, layer })) ?? undefined;
  } finally {
    await served.close();
    await layer.close();
  }
}

/** At most so long, parted by spaces. */
function textOfLength(length: number): string {
  const words = Array.from({ length: Math.ceil(length / 6) }, (_, n) => `tool-${n}`).join(' ');
  return words.slice(0, length).replace(/ [^ ]*$/, '');
}

function guildOfInput({ place }: Input): Guild {
  const guild = place.kind === 'guild' ? place.guild : undefined;
  if (guild === undefined) throw new Error('what was typed in the channel is in no guild');
  return guild;
}

/** Says something to the bot, in each way that there is. */
type LineSpeaker = Pick<PlatformProbe, 'type' | 'invoke'>;

/** Uses a command of the small layer as people do there: a line with its prefix, or a slash command. */
export function useCommand(speaker: LineSpeaker, name: string, text = ''): Promise<void> {
  if (speaker.type !== undefined) return speaker.type(`!${name} ${text}`.trimEnd());
  if (speaker.invoke === undefined) throw new Error('nobody can say anything; give the probe `type` or `invoke`');
  return speaker.invoke([name], text === '' ? {} : { text });
}

/** Why a trial of typed lines is skipped, where there are none. */
export const NOTHING_TYPED = 'nobody types lines to it';

/** Whether an adapter has left a look-up out, as `emptyDirectory` has it. */
export function leavesOut({ platform: { directory } }: PlatformProbe, lookUp: keyof Directory): boolean {
  return directory[lookUp] === emptyDirectory[lookUp];
}

/** What the probe must have where the adapter claims something. */
export function needed<K extends keyof PlatformProbe>(
  probe: PlatformProbe,
  name: K,
  claim: string,
): NonNullable<PlatformProbe[K]> {
  const part = probe[name];
  if (part === undefined || part === null) throw new Error(`the platform has ${claim}; give the probe \`${name}\``);
  return (typeof part === 'function' ? part.bind(probe) : part) as NonNullable<PlatformProbe[K]>;
}

export function expectEqual(actual: unknown, expected: unknown, what: string): void {
  if (actual !== expected)
    throw new Error(`${what} is ${JSON.stringify(actual)}, expected ${JSON.stringify(expected)}`);
}

export function expectThat(holds: boolean, what: string): void {
  if (!holds) throw new Error(what);
}

/** @param asked what must not be done, and must be told so */
export async function expectRefused(what: string, asked: () => unknown): Promise<void> {
  try {
    await inTrialTime(what, Promise.resolve(asked()));
  } catch (error) {
    if (error instanceof PlatformError) return;
    throw new Error(`${what} fails with what is no PlatformError: ${error}`);
  }
  throw new Error(`${what} is told as done`);
}

export function trialPause(ms: number): Promise<void> {
  return new Promise((resolve) => setTimeout(resolve, ms));
}

export async function inTrialTime<T>(what: string, promise: Promise<T>): Promise<T> {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const late = new Promise<never>((_, reject) => {
    timer = setTimeout(() => reject(new Error(`${what} took longer than ${PATIENCE_MS} ms`)), PATIENCE_MS);
  });
  try {
    return await Promise.race([promise, late]);
  } finally {
    clearTimeout(timer);
  }
}
