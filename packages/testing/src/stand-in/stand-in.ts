/** A simulated platform: guilds, people, text, slash, private, held and expiring replies, all in memory. */
import {
  type Actor,
  type Attachment,
  type Channel,
  type Clock,
  type Duration,
  type Notice,
  type Outcome,
  type Place,
  systemClock,
} from 'taxeon';
import {
  type Form,
  type Input,
  type InputHandler,
  millisecondsOf,
  type Pace,
  type Platform,
  PlatformError,
  type Reply,
  type Serving,
  type Visibility,
} from 'taxeon/platform';
import { type StandInDirectory, standInDirectory } from './directory.js';
import { createPosts, type Post, standInText } from './posts.js';
import { checkWorld, type World } from './world.js';

/** Who does something, and where. */
export interface Doing {
  /** A person's id; absent at the console. */
  readonly person?: string;
  /** `'oddmere/counter'`, a guild alone for its first channel, `'direct'` or `'console'`. */
  readonly place: string;
  /** The event id; a repeated one is a repeated delivery. Made up where it is absent. */
  readonly id?: string;
  /** The language of the person, as their client tells; BCP 47. */
  readonly locale?: string;
}

/** A file that comes along with what a person does. */
export interface StandInFile {
  readonly name: string;
  /** Its media type. */
  readonly type: string;
  readonly content: string | Uint8Array;
}

export interface Typing extends Doing {
  readonly text: string;
  readonly files?: readonly StandInFile[];
  /** The event id of the message that is changed to this text. */
  readonly edits?: string;
  /** Typed at the bot's console, and about the place; so is what is typed in the place `'console'`. */
  readonly surface?: 'console';
}

export interface SlashInvoking extends Doing {
  readonly path: readonly string[];
  readonly options?: Readonly<Record<string, unknown>>;
  /** By the options that they are of. */
  readonly files?: Readonly<Record<string, StandInFile>>;
}

/** A form that a person fills in: the one that was shown to them last. */
export interface Filling extends Doing {
  readonly answers: Readonly<Record<string, string>>;
}

/** A form that was shown in answer to a slash command. */
export interface ShownForm {
  readonly form: Form;
  readonly to: Input;
}

/** What came of one thing a person did. */
export interface Exchange {
  readonly input: Input;
  readonly outcome: Outcome;
  readonly posts: readonly Post[];
}

/** How the simulated platform behaves. */
export interface StandInOptions {
  /** By which it is told from other platforms of the same layer; `stand-in` by default. */
  readonly name?: string;
  readonly clock?: Clock;
  /** How long a slash invocation may stay unanswered; 4 s by default. */
  readonly replyDeadline?: Duration;
  /** How long a held invocation stays open; 20 min by default. */
  readonly held?: Duration;
  /** How long one message may be. */
  readonly longestReply?: number;
  /** How many messages a channel takes in how long, made by `paced`; any number by default. */
  readonly pace?: Pace;
}

/** A simulated platform: it makes inputs, hands them in, and keeps what is said. */
export interface StandIn extends Platform {
  readonly directory: StandInDirectory;
  /** Everything the bot said, oldest first. */
  readonly posts: readonly Post[];
  /** Every form that was shown, oldest first. */
  readonly forms: readonly ShownForm[];
  /** Makes the input that typing a line gives; at the console, a line without prefix. */
  typed(typing: Typing): Input;
  /** Makes the input that a slash invocation gives. */
  invoked(invoking: SlashInvoking): Input;
  /** Makes the input that filling in a form gives; `yes` or `no` under `confirm` where it is to be decided. */
  filled(filling: Filling): Input;
  /** Hands an input to the layer that is served and waits for all that comes of it: posts, and changes of earlier ones. */
  send(input: Input): Promise<Exchange>;
}

const LONGEST_REPLY = 1800;
/** Older ones are not changed any more. */
const LATE_POSTS = 1000;

/**
 * Makes a simulated platform.
 *
 * @throws WorldError where the world does not hold together.
 *
 * @example
 * const platform = standIn(world);
 * await platform.serve(layer);
 * const { outcome, posts } = await platform.send(platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!shelf' }));
 */
export function standIn(world: World, options: StandInOptions = {}): StandIn {
  const { clock = systemClock } = options;
  const replyDeadlineMs = millisecondsOf(options.replyDeadline ?? '4s', 'standIn, replyDeadline');
  const heldMs = millisecondsOf(options.held ?? '20m', 'standIn, held');
  const { name = 'stand-in', longestReply = LONGEST_REPLY, pace } = options;
  const checked = checkWorld(world);
  const directory = standInDirectory(checked);
  const { permissions } = checked;
  const posts = createPosts(clock);
  /** Slash invocations that are held, and those that have their answer. */
  const held = new WeakMap<Input, { readonly visibleTo: Visibility; readonly at: number }>();
  const answered = new WeakSet<Input>();
  const removed = new WeakSet<Input>();
  const forms: ShownForm[] = [];
  let layer: InputHandler | undefined;
  let events = 0;
  let files = 0;

  function inputBase(
    { person, place: where, id, locale }: Doing,
    caller?: Actor,
  ): Pick<Input, 'id' | 'caller' | 'place' | 'at' | 'locale'> {
    const place = placeNamed(where, person, directory);
    events += 1;
    return {
      id: id ?? `event-${events}`,
      caller: caller ?? callerIn(place, person, directory),
      place,
      at: clock.now(),
      ...(locale === undefined ? {} : { locale }),
    };
  }

  function attachmentFrom({ name, type, content }: StandInFile): Attachment {
    const bytes = typeof content === 'string' ? new TextEncoder().encode(content) : content;
    files += 1;
    return { id: `file-${files}`, name, type, size: bytes.length, read: async () => bytes };
  }

  /** @throws PlatformError where the invocation is open no more. */
  function mustBeOpen(to: Input): void {
    const openMs = held.has(to) ? heldMs : replyDeadlineMs;
    if (clock.now() - to.at > openMs) {
      throw new PlatformError('platform.gone', `The invocation was not answered within ${openMs} ms`);
    }
  }

  function mustFit({ notice }: Reply): void {
    const length = noticeLength(notice);
    if (length > longestReply) throw new PlatformError('platform.failed', `${length} is longer than ${longestReply}`);
    if (length === 0) throw new PlatformError('platform.failed', 'There is nothing in the message');
  }

  const platform: StandIn = {
    name,
    capabilities: {
      privateReplies: 'slash',
      replyDeadlineMs,
      eventIds: true,
      longestReply,
      expires: true,
      ...(pace === undefined ? {} : { pace }),
    },
    directory,
    ...(permissions === undefined ? {} : { permissions }),
    get posts() {
      return posts.all;
    },
    forms,
    typed({ text, surface = 'text', files: given = [], edits, ...doing }) {
      if (surface === 'console' || doing.place === 'console')
        return { surface: 'console', ...inputBase(doing, theConsole), text };
      const base = inputBase(edits === undefined ? doing : { ...doing, id: edits });
      const input: Input = { surface: 'text', ...base, text, ...(edits === undefined ? {} : { isEdit: true }) };
      return given.length === 0 ? input : { ...input, attachments: given.map(attachmentFrom) };
    },
    invoked({ path, options: given = {}, files: named, ...doing }) {
      const input: Input = { surface: 'slash', ...inputBase(doing), path, options: given };
      if (named === undefined) return input;
      const attached = Object.entries(named).map(([name, file]) => [name, attachmentFrom(file)] as const);
      return {
        ...input,
        options: { ...given, ...Object.fromEntries(attached.map(([name, { id }]) => [name, id])) },
        attachments: attached.map(([, attachment]) => attachment),
      };
    },
    filled({ answers, ...doing }) {
      const base = inputBase(doing);
      const shown = forms.findLast(({ to }) => to.caller.id === base.caller.id);
      if (shown === undefined) throw new PlatformError('platform.gone', 'There is no form to fill in');
      return { surface: 'slash', ...base, path: [], fills: shown.form.id, answers };
    },
    async send(input) {
      if (layer === undefined) throw new Error('No layer is served; call serve(layer) first');
      const from = Math.max(0, posts.all.length - LATE_POSTS);
      const before = posts.all.slice(from).map(({ earlier }) => earlier.length);
      const outcome = await layer.handle(input, platform);
      // Those that are new, and those that say something else now.
      const said = posts.all.slice(from).filter(({ earlier }, index) => earlier.length > (before[index] ?? -1));
      return { input, outcome, posts: said };
    },
    measure: noticeLength,
    deliver(reply, to) {
      mustFit(reply);
      if (to.surface !== 'slash' || answered.has(to)) return posts.add(reply, to.place, viewersOf(reply, to));
      mustBeOpen(to);
      answered.add(to);
      const { visibleTo = reply.visibleTo, at } = held.get(to) ?? {};
      return posts.add(reply, to.place, viewersOf({ ...reply, visibleTo }, to), at);
    },
    hold(to, visibleTo) {
      mustBeOpen(to);
      if (answered.has(to)) throw new PlatformError('platform.failed', 'The invocation was answered before');
      held.set(to, { visibleTo, at: clock.now() });
    },
    edit(delivered, reply) {
      mustFit(reply);
      posts.edit(delivered, reply);
    },
    remove: (delivered) => posts.remove(delivered),
    tell(person, reply) {
      mustFit(reply);
      if (!directory.people.has(person.id) || person.isBot === true)
        throw new PlatformError('platform.unreachable', `${person.name} takes no messages`);
      posts.add(reply, { kind: 'direct', channel: { id: `direct-${person.id}`, name: 'direct message' } }, person.id);
    },
    post(channel, reply) {
      mustFit(reply);
      const place = placeOfChannel(channel, directory);
      return posts.add(reply, place, place.kind === 'direct' ? place.channel.id.slice('direct-'.length) : 'everyone');
    },
    removeInput(input) {
      if (removed.has(input)) throw new PlatformError('platform.gone', 'The message is not there any more');
      removed.add(input);
    },
    form(form, to) {
      mustBeOpen(to);
      answered.add(to);
      forms.push({ form, to });
    },
    typing: () => undefined,
    guilds: () => [...directory.guilds.values()].map(({ id, name }) => ({ id, name })),
    async serve(served) {
      layer = served;
      const serving: Serving = {
        async close() {
          if (layer === served) layer = undefined;
        },
      };
      try {
        await served.connected?.(platform, serving);
      } catch (error) {
        await serving.close();
        throw error;
      }
      return serving;
    },
  };
  return platform;
}

/** On text everybody in the channel sees everything. */
function viewersOf(reply: Reply, to: Input): string {
  const isPrivate = reply.visibleTo === 'caller' && to.surface === 'slash';
  return isPrivate || to.place.kind === 'direct' || to.place.kind === 'console' ? to.caller.id : 'everyone';
}

function noticeLength(notice: Notice): number {
  return standInText(notice).length;
}

function placeOfChannel(channel: Channel, { guilds }: StandInDirectory): Place {
  if (channel.id.startsWith('direct-')) return { kind: 'direct', channel };
  for (const { id, name, channels } of guilds.values()) {
    const found = [...channels.values()].find((one) => one.id === channel.id);
    if (found !== undefined) return { kind: 'guild', guild: { id, name }, channel: found };
  }
  throw new PlatformError('platform.gone', `There is no channel ${channel.name}`);
}

function placeNamed(where: string, person: string | undefined, { guilds }: StandInDirectory): Place {
  if (where === 'console') return { kind: 'console' };
  if (where === 'direct') return { kind: 'direct', channel: { id: `direct-${person}`, name: 'direct message' } };
  const [guildId = '', channelId] = where.split('/');
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

const theConsole: Actor = { kind: 'console', id: 'console', name: 'console' };

function callerIn(place: Place, id: string | undefined, { guilds, people }: StandInDirectory): Actor {
  if (place.kind === 'console') return theConsole;
  const person = people.get(id ?? '');
  if (person === undefined)
    throw new PlatformError('platform.gone', `There is no person "${id}"; there are ${[...people.keys()].join(', ')}`);
  if (place.kind === 'direct') return person;
  const member = guilds.get(place.guild.id)?.members.get(person.id);
  if (member === undefined) throw new PlatformError('platform.gone', `${person.name} is not in ${place.guild.name}`);
  return member;
}
