/** Tryouts: scripted conversations with the replies they expect. */

import type { Log } from 'taxeon';
import { millisecondsOf, PlatformError } from 'taxeon/platform';
import { runFor, runUntil, type VirtualClock } from './clock.js';
import type { Rehearsal } from './config.js';
import { type Fault, injectFaults } from './faults.js';
import { type Speaker, speakerOf } from './speaker.js';
import type { Post } from './stand-in/posts.js';
import type { Exchange } from './stand-in/stand-in.js';
import { compareExchange, compareWait, type LoggedLine, type Mismatch } from './tryout-compare.js';
import type { SpokenLine, Tryout, TryoutLine } from './tryout-format.js';
import { messageOf } from './values.js';

/** A log that keeps what it is told, so that a tryout can look at it. */
export interface KeptLog extends Log {
  readonly lines: readonly LoggedLine[];
}

/**
 * A log that keeps what it is told.
 *
 * @example
 * const kept = keptLog();
 * openBot({ log: kept });
 * console.log(kept.lines.length);
 */
export function keptLog(): KeptLog {
  const lines: LoggedLine[] = [];
  const keep: Log['error'] = (fields, message) => void lines.push({ fields, message });
  return { lines, error: keep, warn: keep };
}

/** A line after it was played; `differences` is empty where it came out as expected. */
export type Played =
  | { readonly kind: 'scene'; readonly text: string }
  /** Something happened, or cannot. */
  | { readonly kind: 'event'; readonly text: string; readonly differences: readonly Mismatch[] }
  | {
      readonly kind: 'wait';
      readonly duration: string;
      /** What the bot has said meanwhile. */
      readonly posts: readonly Post[];
      readonly differences: readonly Mismatch[];
    }
  | {
      readonly kind: 'exchange';
      readonly line: SpokenLine;
      readonly exchange: Exchange;
      /** What was logged meanwhile. */
      readonly logged: readonly LoggedLine[];
      readonly differences: readonly Mismatch[];
    };

/**
 * Plays a tryout line by line on a virtual clock, which runs on by itself while a handler waits for it.
 *
 * @param log the one that the bot was opened with, for what a line expects in it
 *
 * @example
 * for await (const step of playTryout(tryout, rehearsal, clock)) {
 *   if (step.kind === 'exchange') console.log(step.exchange.outcome.status);
 * }
 */
export async function* playTryout(
  { lines }: Tryout,
  rehearsal: Rehearsal,
  clock: VirtualClock,
  log: KeptLog = keptLog(),
): AsyncGenerator<Played> {
  const { platform, modules } = rehearsal;
  const faults = new Map<string, Failing>();
  const isFailing = lines.some((line) => 'fails' in line && 'as' in line);
  const end = isFailing ? injectFaults(platform, (call) => nextFault(faults, call), clock) : undefined;
  await modules?.open();
  const serving = await platform.serve(rehearsal.layer);
  const speaker = speakerOf(rehearsal);
  try {
    for (const line of lines) yield await playLine(line, rehearsal, clock, { log, faults, speaker });
  } finally {
    speaker.close();
    end?.();
    await serving.close();
  }
}

interface Playing {
  readonly log: KeptLog;
  readonly faults: Map<string, Failing>;
  readonly speaker: Speaker;
}

async function playLine(
  line: TryoutLine,
  { platform, events = {}, state }: Rehearsal,
  clock: VirtualClock,
  { log, faults, speaker }: Playing,
): Promise<Played> {
  if ('scene' in line) return { kind: 'scene', text: line.scene };
  if ('happens' in line) return { kind: 'event', text: line.happens, differences: await happen(line.happens, events) };
  if ('as' in line)
    return { kind: 'event', text: failingInWords(line), differences: beginFailing(line, platform, faults) };
  if ('wait' in line) {
    const from = platform.posts.length;
    await runFor(clock, line.wait === undefined ? 0 : millisecondsOf(line.wait, 'wait'));
    const posts = platform.posts.slice(from);
    return { kind: 'wait', duration: line.wait, posts, differences: await compareWait(line, posts, state) };
  }
  const before = log.lines.length;
  let input: ReturnType<typeof tryoutInput>;
  try {
    input = tryoutInput(line, platform);
  } catch (error) {
    const said = messageOf(error);
    const who = line.person ?? 'Somebody';
    const cannot = { what: 'the line', expected: 'something that can be done here', said };
    return { kind: 'event', text: `${who} cannot do that in ${line.place}`, differences: [cannot] };
  }
  const exchange = await runUntil(clock, speaker.say(input));
  const logged = log.lines.slice(before);
  return {
    kind: 'exchange',
    line,
    exchange,
    logged,
    differences: await compareExchange(line, exchange, logged, state),
  };
}

async function happen(name: string, events: NonNullable<Rehearsal['events']>): Promise<Mismatch[]> {
  const event = Object.hasOwn(events, name) ? events[name] : undefined;
  if (event === undefined) {
    const known = Object.keys(events).join('; ') || 'nothing';
    return [{ what: 'what happens', expected: 'something that the configuration knows', said: `one of: ${known}` }];
  }
  try {
    await event();
    return [];
  } catch (error) {
    const said = messageOf(error);
    return [{ what: 'what happens', expected: 'that it does', said: `an error: ${said}` }];
  }
}

type FailingLine = Extract<TryoutLine, { as: unknown }>;

interface Failing {
  readonly fault: Fault;
  left: number;
}

function failingInWords({ fails, as, times }: FailingLine): string {
  const often = times === undefined ? '' : times === 1 ? ', once' : `, ${times} times`;
  return `the platform’s ${fails} is ${as}${often}`;
}

function beginFailing(line: FailingLine, platform: object, faults: Map<string, Failing>): Mismatch[] {
  const { fails, as, times = Number.POSITIVE_INFINITY } = line;
  const target = fails.split('.').reduce((of: unknown, name) => Object(of)[name], platform);
  if (typeof target !== 'function')
    return [{ what: 'what fails', expected: 'something that the platform does, such as deliver', said: fails }];
  if (as === 'working') faults.delete(fails);
  else faults.set(fails, { left: times, fault: faultOf(as) });
  return [];
}

function faultOf(as: Exclude<FailingLine['as'], 'working'>): Fault {
  if (as === 'hanging') return { kind: 'hang' };
  return { kind: 'fail', error: new PlatformError(`platform.${as}`, 'The tryout says so') };
}

function nextFault(faults: Map<string, Failing>, call: string): Fault | undefined {
  const failing = faults.get(call);
  if (failing === undefined || failing.left <= 0) return undefined;
  failing.left -= 1;
  return failing.fault;
}

function tryoutInput(line: SpokenLine, platform: Rehearsal['platform']) {
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
