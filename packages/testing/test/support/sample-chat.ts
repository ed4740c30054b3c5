/** A chat system in memory that has everything, and an adapter to it that can have any of many defects. */

import type { PlatformProbe } from '@taxeon/testing/trials';
import { type Member, type Place, plainText } from 'taxeon';
import { htmlMarkup, type Input, type InputHandler, type Platform, PlatformError, paced } from 'taxeon/platform';
import { until } from '../../../../test/support/programs.js';

/** Each defect, with the trial that must find it. */
export const defects = {
  'a name with a slash': 'has a name that can begin a key',
  'never says that it is connected': 'says once that it is connected, with what serves',
  'does not know who the bot is': 'says who the bot is once it is connected',
  'listens when it is closed': 'takes nothing more once it is closed',
  'cannot be closed twice': 'may be closed twice',
  'answers in another channel': 'hands a typed line to the layer, and its reply to the channel',
  'gives permissions as a list': 'says who typed, as a member with roles, permissions and a rank',
  'a new id for each message of a person': 'gives one id to one person',
  'one id for all people': 'gives different ids to different people',
  'a new channel for each message': 'tells the place: the same guild and channel each time',
  'tells time in seconds': 'tells when it was, in milliseconds',
  'hands in late lines first': 'hands in lines in the order in which they were typed',
  'answers chat': 'passes ordinary chat along and says nothing to it',
  'hears itself': 'runs nothing that the bot itself says',
  'a new event id when it comes again': 'gives each event an id of its own, and the same when it comes again',
  'begins in the middle of the mention': 'knows when a line speaks to the bot',
  'takes a direct message for one in the channel': 'tells a direct message as one, and answers it there alone',
  'takes a slash command for text': 'hands in a slash command with its options, and its answer to the channel',
  'leaves the heading out': 'says every line of a reply',
  'says markup': 'shows text as it stands',
  'passes changes of direction on': 'lets no text change what stands behind it',
  'measures half of a message': 'says all of a long reply, in messages that are no longer than it claims',
  'shows a private reply to all': 'says to the caller alone what is for them alone',
  'claims a pace that is too fast': 'keeps the pace that it claims',
  'gives all messages one id': 'gives each message an id of its own',
  'says a change as another message': 'changes a message',
  'takes no message away': 'takes a message away',
  'tells a person in the channel': 'tells a person alone',
  'tells nobody and says that it did': 'says so where a person is not there to be told',
  'posts nothing': 'posts in a channel',
  'posts nowhere and says that it did': 'says so where there is no channel to post in',
  'fails with an error of another kind': 'says so where there is no channel to post in',
  'leaves what was typed': 'takes away what was typed',
  'holds nothing': 'keeps a slash command open past its deadline',
  'fails to show typing': 'shows that an answer is being made',
  'finds no member by id': 'finds a member by their id',
  'finds whole names alone': 'finds members by their name, and by its beginning',
  'finds no person': 'finds somebody outside of a guild, by their id',
  'finds somebody always': 'finds nobody where there is nobody',
  'does not know itself in the guild': 'knows the bot itself in the guild',
  'lists no channels': 'lists the channel and the roles of a guild',
  'cannot read its own mentions': 'reads back the mention that it writes',
  'lists no guilds': 'lists the guilds that the bot is in',
} as const;

export type Defect = keyof typeof defects;

interface Message {
  readonly id: string;
  readonly from: string;
  /** The channel, or the person whom it is for alone. */
  readonly to: string;
  text: string;
}

const guild = { id: 'oddmere', name: 'Oddmere Tool Library' };
const channel = { id: 'counter', name: 'counter' };
const people = ['Wren', 'Ines', 'Mallet'];
const DEADLINE_MS = 300;
const LONGEST = 400;

/** The system: it shows what stands between angle brackets as nothing, and takes five messages in a fifth of a second. */
function system() {
  const messages: Message[] = [];
  const sent: number[] = [];
  let made = 0;
  return {
    messages,
    say(from: string, to: string, text: string): Message {
      const now = performance.now();
      while ((sent[0] ?? now) < now - 200) sent.shift();
      if (from === 'Mallet' && sent.push(now) > 5) throw new PlatformError('platform.forbidden', 'Too fast');
      if (from === 'Mallet' && shown(text).length > LONGEST) throw new PlatformError('platform.failed', 'Too long');
      const message = { id: `message-${++made}`, from, to, text };
      messages.push(message);
      return message;
    },
  };
}

const entities: Readonly<Record<string, string>> = { lt: '<', gt: '>', amp: '&' };

/** As people see it. */
function shown(text: string): string {
  return text
    .replace(/<[^>]*>/g, '')
    .replace(/&(?:#(\d+)|(\w+));/g, (_, code, name) => (code ? String.fromCharCode(code) : (entities[name] ?? '')));
}

export function sampleChat(defect?: Defect): PlatformProbe {
  const has = (one: Defect) => one === defect;
  const chat = system();
  const listeners = new Set<(message: Message, slash?: Slash) => void>();
  const held = new WeakSet<Input>();
  const answered = new WeakSet<Input>();
  const byInput = new WeakMap<Input, Message>();
  let events = 0;
  let closed = 0;

  interface Slash {
    readonly path: readonly string[];
    readonly options: Readonly<Record<string, string>>;
  }

  const memberNamed = (name: string): Member => ({
    kind: 'member',
    id: has('one id for all people') ? 'id' : `id-${name.toLowerCase()}`,
    name,
    roles: [],
    permissions: has('gives permissions as a list') ? (['borrow'] as never) : new Set(['borrow']),
    rank: 1,
    ownsGuild: false,
  });

  function inputOf(message: Message, slash: Slash | undefined): Input {
    const isDirect = message.to === 'Mallet' && !has('takes a direct message for one in the channel');
    const where = has('a new channel for each message') ? { id: message.id, name: message.id } : channel;
    const place: Place = isDirect
      ? { kind: 'direct', channel: { id: `direct-${message.from}`, name: message.from } }
      : { kind: 'guild', guild, channel: where };
    const known = memberNamed(message.from);
    const id = has('a new id for each message of a person') ? message.id : known.id;
    const caller = isDirect ? ({ kind: 'user', id, name: message.from } as const) : { ...known, id };
    const at = has('tells time in seconds') ? Math.floor(Date.now() / 1000) : Date.now();
    const event = has('a new event id when it comes again') ? `event-${++events}` : message.id;
    const isText = slash === undefined || has('takes a slash command for text');
    const input: Input = isText
      ? { surface: 'text', id: event, caller, place, at, text: message.text }
      : { surface: 'slash', id: event, caller, place, at, ...slash };
    byInput.set(input, message);
    return input;
  }

  const written = (reply: Parameters<Platform['deliver']>[0]): string => {
    const { heading, ...rest } = reply.notice;
    const text = plainText(
      has('leaves the heading out') ? rest : { ...rest, ...(heading === undefined ? {} : { heading }) },
    );
    if (has('says markup')) return text;
    return has('passes changes of direction on')
      ? text.replace(/[&<>]/g, (sign) => `&#${sign.charCodeAt(0)};`)
      : htmlMarkup(text);
  };

  const idOf = (message: Message) => ({ id: has('gives all messages one id') ? 'message' : message.id });
  const find = (id: string) => {
    const message = chat.messages.find((one) => one.id === id);
    if (message === undefined) throw new PlatformError('platform.gone', 'There is no such message');
    return message;
  };

  const platform: Platform = {
    name: has('a name with a slash') ? 'sample/chat' : 'sample',
    capabilities: {
      privateReplies: 'always',
      eventIds: true,
      replyDeadlineMs: DEADLINE_MS,
      longestReply: LONGEST,
      pace: paced(has('claims a pace that is too fast') ? '100 in 250ms' : '4 in 250ms'),
      typingMs: 1000,
    },
    measure: (notice) => plainText(notice).length / (has('measures half of a message') ? 20 : 1),
    directory: {
      bot: () => (has('does not know who the bot is') ? undefined : { kind: 'user', id: 'id-mallet', name: 'Mallet' }),
      self: () => (has('does not know itself in the guild') ? undefined : memberNamed('Mallet')),
      mentioned: (text, what) =>
        what === 'person' && !has('cannot read its own mentions') ? /^@(id-\w+)$/.exec(text)?.[1] : undefined,
      mention: ({ id }) => `@${id}`,
      addressed(text) {
        const [mention] = /^@id-mallet\s+/.exec(text) ?? [];
        if (mention === undefined) return -1;
        return has('begins in the middle of the mention') ? 4 : mention.length;
      },
      member: ({ id: of }, id) =>
        has('finds no member by id') || of !== guild.id
          ? undefined
          : people.map(memberNamed).find((one) => one.id === id),
      membersNamed({ id: of }, name) {
        if (has('finds somebody always')) return people.map(memberNamed);
        const folded = name.toLowerCase();
        const fits = (one: string) =>
          has('finds whole names alone') ? one.toLowerCase() === folded : one.toLowerCase().startsWith(folded);
        return of === guild.id ? people.filter(fits).map(memberNamed) : [];
      },
      user(id) {
        const name = has('finds no person') ? undefined : people.find((one) => memberNamed(one).id === id);
        return name === undefined ? undefined : { kind: 'user', id, name };
      },
      roles: () => [],
      channels: () => (has('lists no channels') ? [] : [channel]),
    },
    guilds: () => (has('lists no guilds') ? [] : [guild]),
    deliver(reply, to) {
      const message = byInput.get(to);
      if (to.surface === 'slash' && !answered.has(to)) {
        if (Date.now() - to.at > DEADLINE_MS && !held.has(to)) throw new PlatformError('platform.gone', 'Too late');
        answered.add(to);
      }
      const isAlone =
        to.place.kind === 'direct' || (reply.visibleTo === 'caller' && !has('shows a private reply to all'));
      const there = has('answers in another channel') ? 'workshop' : channel.id;
      return idOf(chat.say('Mallet', isAlone ? (message?.from ?? '') : there, written(reply)));
    },
    hold(to) {
      if (!has('holds nothing')) held.add(to);
    },
    edit({ id }, reply) {
      if (has('says a change as another message')) chat.say('Mallet', channel.id, written(reply));
      else find(id).text = written(reply);
    },
    remove({ id }) {
      if (!has('takes no message away')) chat.messages.splice(chat.messages.indexOf(find(id)), 1);
    },
    typing() {
      if (has('fails to show typing')) throw new PlatformError('platform.failed', 'There is no typing');
    },
    tell({ name }, reply) {
      if (!people.includes(name)) {
        if (has('tells nobody and says that it did')) return;
        throw new PlatformError('platform.unreachable', `${name} is not there`);
      }
      chat.say('Mallet', has('tells a person in the channel') ? channel.id : name, written(reply));
    },
    post({ id }, reply) {
      if (has('posts nothing')) return undefined;
      if (id !== channel.id) {
        if (has('posts nowhere and says that it did')) return undefined;
        if (has('fails with an error of another kind')) throw new Error('There is no such channel');
        throw new PlatformError('platform.gone', 'There is no such channel');
      }
      return idOf(chat.say('Mallet', id, written(reply)));
    },
    removeInput(input) {
      const message = byInput.get(input);
      if (message !== undefined && !has('leaves what was typed'))
        chat.messages.splice(chat.messages.indexOf(message), 1);
    },
    async serve(layer: InputHandler) {
      let lines = 0;
      const listener = (message: Message, slash?: Slash) => {
        if (message.from === 'Mallet' && !has('hears itself')) return;
        if (has('answers chat') && !message.text.startsWith('!')) chat.say('Mallet', channel.id, 'What do you mean?');
        const hand = () => void layer.handle(inputOf(message, slash), platform);
        if (has('hands in late lines first') && lines++ === 0) setTimeout(hand, 20);
        else hand();
      };
      listeners.add(listener);
      const serving = {
        async close() {
          if (has('cannot be closed twice') && closed++ > 0) throw new Error('It is closed');
          if (!has('listens when it is closed')) listeners.delete(listener);
        },
      };
      if (!has('never says that it is connected')) await layer.connected?.(platform, serving);
      return serving;
    },
  };
  return probeOf(platform, chat, (message, slash) => {
    for (const listener of listeners) listener(message, slash);
  });
}

/** The other side of it. */
function probeOf(
  platform: Platform,
  chat: ReturnType<typeof system>,
  tell: (message: Message, slash?: { path: readonly string[]; options: Readonly<Record<string, string>> }) => void,
): PlatformProbe {
  const read = new Map<string, number>();
  let latest: Message | undefined;
  const { say } = chat;
  // What the bot says is told to all who listen, too.
  chat.say = (from, to, text) => {
    const message = say(from, to, text);
    if (from === 'Mallet') tell(message);
    return message;
  };
  const type = async (from: string, to: string, text: string) => {
    latest = say(from, to, text);
    tell(latest);
  };
  const heard = async (to: string) => {
    const lines = () =>
      chat.messages
        .filter((one) => one.from === 'Mallet' && one.to === to)
        .flatMap(({ text }) => shown(text).split('\n'));
    const index = read.get(to) ?? 0;
    read.set(to, index + 1);
    await until(() => lines().length > index, 'something is said', 1500);
    return lines()[index] ?? '';
  };
  return {
    platform,
    somebody: { name: 'Wren' },
    type: (line) => type('Wren', channel.id, line),
    heard: () => heard(channel.id),
    other: { name: 'Ines', type: (line) => type('Ines', channel.id, line) },
    whisper: (line) => type('Wren', 'Mallet', line),
    heardAlone: () => heard('Wren'),
    async invoke(path, options) {
      tell({ id: `slash-${path}-${Math.random()}`, from: 'Wren', to: channel.id, text: '' }, { path, options });
    },
    addressing: '@id-mallet ',
    async redeliver() {
      if (latest !== undefined) tell(latest);
    },
    shown: async () =>
      chat.messages.filter(({ from, to }) => from === 'Mallet' && to === channel.id).map(({ text }) => shown(text)),
    stands: async (line) => chat.messages.some(({ text }) => text === line),
  };
}
