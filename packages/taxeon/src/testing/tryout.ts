/** Tryouts: scripted conversations with the replies they expect. */
import * as v from 'valibot';
import { durationMs } from '../base/time.js';
import type { Log } from '../contract/log.js';
import type { Place } from '../contract/places.js';
import type { Exchange, Post } from '../platforms/stand-in/index.js';
import { plainText } from '../replies/notice.js';
import { runFor, runUntil, type VirtualClock } from './clock.js';
import type { Rehearsal } from './config.js';

const text = v.string('give a text');

const duration = v.pipe(
  text,
  v.check((value) => durationMs(value) !== undefined, 'give a duration such as 2m'),
);

const expectation = v.strictObject({
  status: v.picklist(
    ['completed', 'refused', 'invalid', 'waiting', 'failed', 'ignored'],
    'give a status such as completed',
  ),
  code: v.optional(text),
  /** The argument that is asked for, or a part of the question that wants a yes. */
  asks: v.optional(text),
  /** A part of what the bot says. */
  says: v.optional(text),
  seenBy: v.optional(v.picklist(['everyone', 'caller', 'nobody'], 'give everyone, caller or nobody')),
  /** A part of what is shown before the reply, while the handler is at work. */
  shows: v.optional(text),
  /** Whether the reply was held before it was given. */
  held: v.optional(v.boolean('give true or false')),
  /** After how long the reply goes again. */
  goesAfter: v.optional(duration),
  /** Who is told something by direct message, by id. */
  tells: v.optional(text),
  /** A part of what the log says under the reference that the reply tells. */
  logs: v.optional(text),
});

const file = v.strictObject({ name: text, type: text, content: v.optional(text, '') });

/** `locale` is the language that the person's own client tells, `id` the event's. */
const saying = {
  person: v.optional(text),
  place: text,
  locale: v.optional(text),
  id: v.optional(text),
  expect: expectation,
};

const line = v.union(
  [
    v.strictObject({ scene: text }),
    /** Something that the configuration knows by these words. */
    v.strictObject({ happens: text }),
    /** What the bot says meanwhile. */
    v.strictObject({ wait: duration, says: v.optional(text) }),
    v.strictObject({
      ...saying,
      types: text,
      surface: v.optional(v.literal('console', 'give console')),
      files: v.optional(v.array(file, 'give a list of files')),
      /** The id of the message that is changed to this. */
      edits: v.optional(text),
    }),
    v.strictObject({
      ...saying,
      invokes: text,
      options: v.optional(v.record(text, v.unknown()), {}),
      /** By the options that they are of. */
      files: v.optional(v.record(text, file)),
    }),
    v.strictObject({ ...saying, fills: v.record(text, text) }),
  ],
  'a line is one of: scene; happens; wait; place and expect, with types, invokes or fills',
);

const tryout = v.strictObject({
  tryout: text,
  begins: v.pipe(text, v.isoTimestamp('give a moment such as 2026-05-09T13:00:00Z')),
  lines: v.array(line, 'give a list of lines'),
});

export type Tryout = v.InferOutput<typeof tryout>;
export type TryoutLine = Tryout['lines'][number];
type SpokenLine = Extract<TryoutLine, { expect: unknown }>;

/** A tryout that does not read, with every problem and where it is. */
export class TryoutError extends Error {
  override readonly name = 'TryoutError';

  constructor(readonly problems: readonly string[]) {
    super(`The tryout is wrong: ${problems.join('; ')}`);
  }
}

/**
 * Checks data that came from a file.
 *
 * @throws TryoutError naming each problem and the line it is in.
 */
export function checkTryout(data: unknown): Tryout {
  const parsed = v.safeParse(tryout, data);
  if (parsed.success) return parsed.output;
  throw new TryoutError(parsed.issues.map((issue) => `${v.getDotPath(issue) ?? 'the whole'}: ${issue.message}`));
}

/** Something in the bot's log. */
export interface LoggedLine {
  readonly message: string;
  readonly fields: Readonly<Record<string, unknown>>;
}

/** A log that keeps what it is told, so that a tryout can look at it. */
export interface KeptLog extends Log {
  readonly lines: readonly LoggedLine[];
}

export function keptLog(): KeptLog {
  const lines: LoggedLine[] = [];
  const keep: Log['error'] = (fields, message) => void lines.push({ fields, message });
  return { lines, error: keep, warn: keep };
}

/** A line after it was played. */
export type Played =
  | { readonly kind: 'scene'; readonly text: string }
  | { readonly kind: 'event'; readonly text: string; readonly differences: readonly string[] }
  | {
      readonly kind: 'wait';
      readonly duration: string;
      /** What the bot has said meanwhile. */
      readonly posts: readonly Post[];
      readonly differences: readonly string[];
    }
  | {
      readonly kind: 'exchange';
      readonly line: SpokenLine;
      readonly exchange: Exchange;
      /** What was logged meanwhile. */
      readonly logged: readonly LoggedLine[];
      /** How it differs from what was expected; empty where it does not. */
      readonly differences: readonly string[];
    };

/**
 * Plays a tryout line by line on a virtual clock, which runs on by itself while a handler waits for it.
 *
 * @param log the one that the bot was opened with, for what a line expects in it
 */
export async function* playTryout(
  { lines }: Tryout,
  { layer, platform, modules, events = {} }: Rehearsal,
  clock: VirtualClock,
  log: KeptLog = keptLog(),
): AsyncGenerator<Played> {
  await modules?.open();
  const serving = await platform.serve(layer);
  try {
    for (const line of lines) {
      if ('scene' in line) yield { kind: 'scene', text: line.scene };
      else if ('happens' in line) {
        yield { kind: 'event', text: line.happens, differences: await happen(line.happens, events) };
      } else if ('wait' in line) {
        const from = platform.posts.length;
        await runFor(clock, durationMs(line.wait) ?? 0);
        const posts = platform.posts.slice(from);
        yield { kind: 'wait', duration: line.wait, posts, differences: lacking('the reply', line.says, saidIn(posts)) };
      } else {
        const before = log.lines.length;
        const exchange = await runUntil(clock, platform.send(inputOf(line, platform)));
        const logged = log.lines.slice(before);
        yield { kind: 'exchange', line, exchange, logged, differences: differencesIn(line, exchange, logged) };
      }
    }
  } finally {
    await serving.close();
  }
}

async function happen(name: string, events: NonNullable<Rehearsal['events']>): Promise<string[]> {
  const event = Object.hasOwn(events, name) ? events[name] : undefined;
  if (event === undefined) {
    const known = Object.keys(events).map((one) => JSON.stringify(one));
    return [`nothing is known that happens by these words; there are ${known.join(', ') || 'none'}`];
  }
  try {
    await event();
    return [];
  } catch (error) {
    return [`it failed: ${error instanceof Error ? error.message : String(error)}`];
  }
}

function inputOf(line: SpokenLine, platform: Rehearsal['platform']) {
  const { expect: _, ...doing } = line;
  if ('fills' in doing) {
    const { fills, ...rest } = doing;
    return platform.filled({ ...defined(rest), answers: fills });
  }
  if (!('types' in doing)) {
    const { invokes, ...rest } = doing;
    return platform.invoked({ ...defined(rest), path: invokes.split(' ') });
  }
  const { types, ...rest } = doing;
  return platform.typed({ ...defined(rest), text: types });
}

type Defined<T> = { readonly [K in keyof T]: Exclude<T[K], undefined> };

function defined<T extends object>(given: T): Defined<T> {
  return Object.fromEntries(Object.entries(given).filter(([, value]) => value !== undefined)) as Defined<T>;
}

function differencesIn(
  { expect }: SpokenLine,
  { outcome, posts, input }: Exchange,
  logged: readonly LoggedLine[],
): string[] {
  const differences: string[] = [];
  const compare = (what: string, expected: string | undefined, actual: string) => {
    if (expected !== undefined && expected !== actual) differences.push(`${what} is ${actual}, expected ${expected}`);
  };
  const contain = (what: string, expected: string | undefined, actual: string) =>
    void differences.push(...lacking(what, expected, actual));
  compare('status', expect.status, outcome.status);
  compare('code', expect.code, 'code' in outcome ? outcome.code : 'none');
  contain('what is asked', expect.asks, askedIn(outcome));
  contain('the reply', expect.says, saidIn(posts));
  const here: Place = input.surface === 'console' ? { kind: 'console' } : input.place;
  const [reply] = posts.filter(({ place }) => isHere(place, here));
  contain('what is shown', expect.shows, (reply?.earlier ?? []).map(plainText).join('\n'));
  compare('seen by', expect.seenBy, seenBy(reply, input.caller.id));
  if (expect.held !== undefined) compare('held', String(expect.held), String(reply?.heldAt !== undefined));
  if (expect.goesAfter !== undefined) {
    const stays = reply?.goneAt === undefined ? 'never' : `${reply.goneAt - reply.at}`;
    compare('how long the reply stays, in ms,', String(durationMs(expect.goesAfter)), stays);
  }
  const told = posts.filter(({ place }) => !isHere(place, here)).map(({ visibleTo }) => visibleTo);
  compare('who is told', expect.tells, told.join(', ') || 'nobody');
  contain('the log', expect.logs, loggedUnder(outcome, logged));
  return differences;
}

function lacking(what: string, expected: string | undefined, actual: string): string[] {
  if (expected === undefined || actual.includes(expected)) return [];
  return [`${what} is ${JSON.stringify(actual)}, expected it to say ${JSON.stringify(expected)}`];
}

function saidIn(posts: readonly Post[]): string {
  return posts.map((post) => plainText(post.notice)).join('\n');
}

function askedIn(outcome: Exchange['outcome']): string {
  if (outcome.status !== 'waiting') return '';
  return outcome.asks.for === 'argument' ? outcome.asks.argument : outcome.asks.question;
}

function isHere(place: Place, here: Place): boolean {
  if (place.kind !== here.kind) return false;
  return place.kind === 'console' || here.kind === 'console' || place.channel.id === here.channel.id;
}

function loggedUnder(outcome: Exchange['outcome'], logged: readonly LoggedLine[]): string {
  const parameters = 'parameters' in outcome ? outcome.parameters : {};
  const reference = 'reference' in parameters ? parameters.reference : undefined;
  const line = logged.find(({ fields }) => reference !== undefined && fields['reference'] === reference);
  return line === undefined ? '' : `${line.message}: ${String(line.fields['error'] ?? '')}`;
}

function seenBy(post: Post | undefined, caller: string): string {
  if (post === undefined) return 'nobody';
  return post.visibleTo === caller ? 'caller' : post.visibleTo;
}
