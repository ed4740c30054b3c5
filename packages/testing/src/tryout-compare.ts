/** How what a bot did differs from what a tryout expects. */

import { durationInWords, type Outcome, type Place, plainText } from 'taxeon';
import { millisecondsOf } from 'taxeon/platform';
import type { Rehearsal } from './config.js';
import type { Post } from './stand-in/posts.js';
import type { Exchange } from './stand-in/stand-in.js';
import type { ExpectedReply, SpokenLine, TryoutLine } from './tryout-format.js';
import { isObject, messageOf } from './values.js';

/** One thing that is not as expected. */
export interface Mismatch {
  /** `status`, `the reply`, `the 2nd reply, to`. */
  readonly what: string;
  readonly expected: string;
  readonly said: string;
  /** Where in the line the expectation stands, and what would be right there now; absent where nothing in it would. */
  readonly at?: readonly (string | number)[];
  readonly now?: unknown;
}

/**
 * `status: expected refused, and it was completed`.
 *
 * @example
 * for await (const step of playTryout(tryout, rehearsal, clock)) {
 *   if ('differences' in step) for (const one of step.differences) console.log(mismatchInWords(one));
 * }
 */
export function mismatchInWords({ what, expected, said }: Mismatch): string {
  return `${what}: expected ${expected}, and it was ${said}`;
}

/** Something in the bot's log. */
export interface LoggedLine {
  readonly message: string;
  readonly fields: Readonly<Record<string, unknown>>;
}

export async function compareExchange(
  { expect }: SpokenLine,
  exchange: Exchange,
  logged: readonly LoggedLine[],
  state: Rehearsal['state'],
): Promise<Mismatch[]> {
  const { outcome, posts, input } = exchange;
  const here: Place = input.surface === 'console' ? { kind: 'console' } : input.place;
  const [reply] = posts.filter(({ place }) => isHere(place, here));
  const told = posts.filter(({ place }) => !isHere(place, here)).map(({ visibleTo }) => visibleTo);
  const stays = reply?.goneAt === undefined ? undefined : reply.goneAt - reply.at;
  const found = new Mismatches(['expect']);
  found.same('status', expect.status, outcome.status);
  found.same('code', expect.code, 'code' in outcome ? outcome.code : 'none');
  found.part('what is asked', 'asks', expect.asks, askedIn(outcome));
  found.part('the reply', 'says', expect.says, saidIn(posts));
  found.part('what is shown', 'shows', expect.shows, (reply?.earlier ?? []).map(plainText).join('\n'));
  found.same('seenBy', expect.seenBy, postSeenBy(reply, input.caller.id));
  found.same('held', expect.held, reply?.heldAt !== undefined);
  if (expect.goesAfter !== undefined && millisecondsOf(expect.goesAfter, 'goesAfter') !== stays)
    found.add('goesAfter', expect.goesAfter, shownMs(stays), stays === undefined ? undefined : writtenMs(stays));
  found.same('tells', expect.tells, told.join(', ') || 'nobody');
  found.part('the log', 'logs', expect.logs, loggedUnder(outcome, logged));
  compareReplies(found, expect.replies, posts, here);
  await compareState(found, expect.state, state);
  return found.all;
}

export async function compareWait(
  line: Extract<TryoutLine, { wait: string }>,
  posts: readonly Post[],
  state: Rehearsal['state'],
): Promise<Mismatch[]> {
  const found = new Mismatches([]);
  found.part('the reply', 'says', line.says, saidIn(posts));
  compareReplies(found, line.replies, posts, undefined);
  await compareState(found, line.state, state);
  return found.all;
}

class Mismatches {
  readonly all: Mismatch[] = [];

  constructor(private readonly path: readonly (string | number)[]) {}

  add(key: string | readonly (string | number)[], expected: string, said: string, now: unknown, what?: string): void {
    const keys = typeof key === 'string' ? [key] : key;
    const at = now === undefined ? {} : { at: [...this.path, ...keys], now };
    this.all.push({ what: what ?? keys.join(' '), expected, said, ...at });
  }

  same(key: string, expected: string | boolean | undefined, actual: string | boolean): void {
    if (expected !== undefined && expected !== actual) this.add(key, String(expected), String(actual), actual);
  }

  part(what: string, key: string, expected: string | undefined, actual: string): void {
    if (expected !== undefined && !actual.includes(expected))
      this.add(key, `something with ${quotedReply(expected)}`, quotedReply(actual), actual, what);
  }
}

function compareReplies(
  found: Mismatches,
  expected: readonly ExpectedReply[] | undefined,
  posts: readonly Post[],
  here: Place | undefined,
): void {
  if (expected === undefined) return;
  if (expected.length !== posts.length) {
    const now = posts.map((post) => describedReply(post, here));
    found.add('replies', countedReplies(expected.length), countedReplies(posts.length), now);
  }
  for (const [index, one] of expected.entries()) {
    const post = posts[index];
    if (post !== undefined) compareReply(found, one, post, index, here);
  }
}

function compareReply(found: Mismatches, expected: ExpectedReply, post: Post, index: number, here: Place | undefined) {
  const text = plainText(post.notice);
  const differs = (key: keyof ExpectedReply, wanted: string, said: string, now: unknown) =>
    found.add(['replies', index, key], wanted, said, now, `reply ${index + 1}, ${key}`);
  const { says, exactly, begins, matches, to, shows, held, goesAfter } = expected;
  if (says !== undefined && !text.includes(says))
    differs('says', `something with ${quotedReply(says)}`, quotedReply(text), text);
  if (exactly !== undefined && text !== exactly) differs('exactly', quotedReply(exactly), quotedReply(text), text);
  if (begins !== undefined && !text.startsWith(begins)) differs('begins', quotedReply(begins), quotedReply(text), text);
  // There is no pattern that would be right now.
  if (matches !== undefined && !new RegExp(matches, 'u').test(text))
    differs('matches', `/${matches}/`, quotedReply(text), undefined);
  if (to !== undefined && to !== post.visibleTo) differs('to', to, post.visibleTo, post.visibleTo);
  const where = expected.in ?? (here === undefined ? undefined : placeInWords(here));
  if (where !== undefined && where !== placeInWords(post.place))
    differs('in', where, placeInWords(post.place), placeInWords(post.place));
  const shown = post.earlier.map(plainText).join('\n');
  if (shows !== undefined && !shown.includes(shows))
    differs('shows', `something with ${quotedReply(shows)}`, quotedReply(shown), shown);
  const isHeld = post.heldAt !== undefined;
  if (held !== undefined && held !== isHeld) differs('held', String(held), String(isHeld), isHeld);
  const stays = post.goneAt === undefined ? undefined : post.goneAt - post.at;
  if (goesAfter !== undefined && (goesAfter === 'never' ? undefined : millisecondsOf(goesAfter, 'goesAfter')) !== stays)
    differs('goesAfter', goesAfter, shownMs(stays), stays === undefined ? 'never' : writtenMs(stays));
}

/**
 * What a tryout would expect of what has come: its status, its code, and all replies as they are.
 *
 * @example
 * const { replies } = expectationOf(await platform.send(input));
 */
export function expectationOf({ outcome, posts, input }: Exchange): SpokenLine['expect'] {
  const here: Place = input.surface === 'console' ? { kind: 'console' } : input.place;
  return {
    status: outcome.status,
    ...('code' in outcome ? { code: outcome.code } : {}),
    ...(posts.length === 0 ? {} : { replies: posts.map((post) => describedReply(post, here)) }),
  };
}

/** A message as a tryout would expect it. */
function describedReply(post: Post, here: Place | undefined): ExpectedReply {
  return {
    exactly: plainText(post.notice),
    ...(post.visibleTo === 'everyone' ? {} : { to: post.visibleTo }),
    ...(here !== undefined && isHere(post.place, here) ? {} : { in: placeInWords(post.place) }),
  };
}

async function compareState(
  found: Mismatches,
  expected: Readonly<Record<string, unknown>> | undefined,
  state: Rehearsal['state'] = {},
): Promise<void> {
  for (const [name, wanted] of Object.entries(expected ?? {})) {
    const tell = Object.hasOwn(state, name) ? state[name] : undefined;
    if (tell === undefined) {
      const known = Object.keys(state).join(', ') || 'none';
      found.add(['state', name], asData(wanted), `not known to the configuration; there are ${known}`, undefined);
      continue;
    }
    try {
      const told = await tell();
      if (asData(told) !== asData(wanted)) found.add(['state', name], asData(wanted), asData(told), told ?? null);
    } catch (error) {
      const why = messageOf(error);
      found.add(['state', name], asData(wanted), `an error: ${why}`, undefined);
    }
  }
}

/** As JSON, with keys in order. */
function asData(value: unknown): string {
  const sorted = (_: string, one: unknown) =>
    isObject(one) ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1))) : one;
  return JSON.stringify(value, sorted) ?? 'nothing';
}

function quotedReply(text: string): string {
  return text === '' ? 'nothing' : `“${text}”`;
}

function countedReplies(count: number): string {
  return `${count} ${count === 1 ? 'reply' : 'replies'}`;
}

function shownMs(ms: number | undefined): string {
  return ms === undefined ? 'never' : durationInWords(ms);
}

/** As a duration is written. */
function writtenMs(ms: number): string {
  for (const [unit, length] of [
    ['d', 86_400_000],
    ['h', 3_600_000],
    ['m', 60_000],
    ['s', 1000],
  ] as const)
    if (ms % length === 0) return `${ms / length}${unit}`;
  return `${Math.round(ms / 1000)}s`;
}

function saidIn(posts: readonly Post[]): string {
  return posts.map((post) => plainText(post.notice)).join('\n');
}

function askedIn(outcome: Outcome): string {
  if (outcome.status !== 'waiting') return '';
  return outcome.asks.for === 'argument' ? outcome.asks.argument : outcome.asks.question;
}

function isHere(place: Place, here: Place): boolean {
  if (place.kind !== here.kind) return false;
  return place.kind === 'console' || here.kind === 'console' || place.channel.id === here.channel.id;
}

/** As a tryout names a place. */
function placeInWords(place: Place): string {
  return place.kind === 'guild' ? place.channel.id : place.kind;
}

function loggedUnder(outcome: Outcome, logged: readonly LoggedLine[]): string {
  const parameters = 'parameters' in outcome ? outcome.parameters : {};
  const reference = 'reference' in parameters ? parameters.reference : undefined;
  const line = logged.find(({ fields }) => reference !== undefined && fields['reference'] === reference);
  return line === undefined ? '' : `${line.message}: ${String(line.fields['error'] ?? '')}`;
}

function postSeenBy(post: Post | undefined, caller: string): string {
  if (post === undefined) return 'nobody';
  return post.visibleTo === caller ? 'caller' : post.visibleTo;
}
