/** A simulated platform: guilds, people, text, slash, private replies and a reply deadline, all in memory. */
import { type Clock, systemClock } from '../../base/time.js';
import type { Actor } from '../../contract/actors.js';
import type { Input } from '../../contract/input.js';
import type { Notice, Reply } from '../../contract/notice.js';
import type { Outcome } from '../../contract/outcome.js';
import type { Place } from '../../contract/places.js';
import { type InputHandler, type Platform, PlatformError } from '../../contract/platform.js';
import { type StandInDirectory, standInDirectory } from './directory.js';
import { checkWorld, type World } from './world.js';

/** Something the bot said. */
export interface Post {
  readonly notice: Notice;
  readonly place: Place;
  /** `'everyone'` in the place, or the id of the one person who sees it. */
  readonly visibleTo: string;
  readonly at: number;
}

/** Who does something, and where. */
export interface Doing {
  /** A person's id; absent at the console. */
  readonly by?: string;
  /** `'saltmarsh/counter'`, a guild alone for its first channel, `'direct'` or `'console'`. */
  readonly at: string;
  /** The event id; a repeated one is a repeated delivery. Made up where it is absent. */
  readonly id?: string;
}

export interface Typing extends Doing {
  readonly text: string;
}

export interface SlashInvoking extends Doing {
  readonly path: readonly string[];
  readonly options?: Readonly<Record<string, unknown>>;
}

/** What came of one thing a person did. */
export interface Exchange {
  readonly input: Input;
  readonly outcome: Outcome;
  readonly posts: readonly Post[];
}

export interface StandInOptions {
  readonly clock?: Clock;
  /** How long a slash invocation may stay unanswered, in milliseconds. */
  readonly replyDeadlineMs?: number;
}

export interface StandIn extends Platform {
  readonly directory: StandInDirectory;
  /** Everything the bot said, oldest first. */
  readonly posts: readonly Post[];
  /** Makes the input that typing a line gives; at the console, a line without prefix. */
  typed(typing: Typing): Input;
  /** Makes the input that a slash invocation gives. */
  invoked(invoking: SlashInvoking): Input;
  /** Hands an input to the layer that is served and waits for all that comes of it. */
  send(input: Input): Promise<Exchange>;
}

const REPLY_DEADLINE_MS = 4000;

/**
 * Makes a simulated platform.
 *
 * @throws WorldError where the world does not hold together.
 *
 * @example
 * const standIn = createStandIn(world);
 * await standIn.serve(layer);
 * const { outcome, posts } = await standIn.send(standIn.typed({ by: 'wren', at: 'saltmarsh/counter', text: '!shelf' }));
 */
export function createStandIn(world: World, options: StandInOptions = {}): StandIn {
  const { clock = systemClock, replyDeadlineMs = REPLY_DEADLINE_MS } = options;
  const checked = checkWorld(world);
  const directory = standInDirectory(checked);
  const { permissions } = checked;
  const posts: Post[] = [];
  const answered = new WeakSet<Input>();
  let layer: InputHandler | undefined;
  let events = 0;

  function inputBase({ by, at, id }: Doing): Pick<Input, 'id' | 'caller' | 'place' | 'at'> {
    const place = placeOf(at, by, directory);
    events += 1;
    return { id: id ?? `event-${events}`, caller: callerIn(place, by, directory), place, at: clock.now() };
  }

  const platform: StandIn = {
    name: 'stand-in',
    capabilities: { privateReplies: 'slash', replyDeadlineMs, eventIds: true },
    directory,
    ...(permissions === undefined ? {} : { permissions }),
    posts,
    typed: ({ text, ...doing }) => ({
      surface: doing.at === 'console' ? 'console' : 'text',
      ...inputBase(doing),
      text,
    }),
    invoked: ({ path, options: given = {}, ...doing }) => ({
      surface: 'slash',
      ...inputBase(doing),
      path,
      options: given,
    }),
    async send(input) {
      if (layer === undefined) throw new Error('No layer is served; call serve(layer) first');
      const before = posts.length;
      const outcome = await layer.handle(input, platform);
      return { input, outcome, posts: posts.slice(before) };
    },
    deliver(reply, to) {
      if (to.surface === 'slash') {
        if (clock.now() - to.at > replyDeadlineMs) {
          throw new PlatformError('platform.gone', `The invocation was not answered within ${replyDeadlineMs} ms`);
        }
        if (answered.has(to)) throw new PlatformError('platform.failed', 'The invocation was answered before');
        answered.add(to);
      }
      posts.push({ notice: reply.notice, place: to.place, visibleTo: viewersOf(reply, to), at: clock.now() });
    },
    guilds: () => [...directory.guilds.values()].map(({ id, name }) => ({ id, name })),
    async serve(served) {
      layer = served;
      await served.connected?.(platform);
      return {
        async close() {
          layer = undefined;
        },
      };
    },
  };
  return platform;
}

/** On text everybody in the channel sees everything. */
function viewersOf(reply: Reply, to: Input): string {
  const isPrivate = reply.visibleTo === 'caller' && to.surface === 'slash';
  return isPrivate || to.place.kind === 'direct' || to.place.kind === 'console' ? to.caller.id : 'everyone';
}

function placeOf(at: string, by: string | undefined, { guilds }: StandInDirectory): Place {
  if (at === 'console') return { kind: 'console' };
  if (at === 'direct') return { kind: 'direct', channel: { id: `direct-${by}`, name: 'direct message' } };
  const [guildId = '', channelId] = at.split('/');
  const guild = guilds.get(guildId);
  if (guild === undefined)
    throw new PlatformError(
      'platform.gone',
      `There is no guild "${guildId}"; there are ${[...guilds.keys()].join(', ')}`,
    );
  const channel = channelId === undefined ? guild.channels.values().next().value : guild.channels.get(channelId);
  if (channel === undefined) {
    throw new PlatformError(
      'platform.gone',
      `There is no channel "${channelId}" in ${guildId}; there are ${[...guild.channels.keys()].join(', ')}`,
    );
  }
  return { kind: 'guild', guild: { id: guild.id, name: guild.name }, channel };
}

function callerIn(place: Place, by: string | undefined, { guilds, people }: StandInDirectory): Actor {
  if (place.kind === 'console') return { kind: 'console', id: 'console', name: 'console' };
  const person = people.get(by ?? '');
  if (person === undefined)
    throw new PlatformError('platform.gone', `There is no person "${by}"; there are ${[...people.keys()].join(', ')}`);
  if (place.kind === 'direct') return person;
  const member = guilds.get(place.guild.id)?.members.get(person.id);
  if (member === undefined) throw new PlatformError('platform.gone', `${person.name} is not in ${place.guild.name}`);
  return member;
}
