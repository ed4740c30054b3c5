/** The yardstick: the same command as a good engineer writes it by hand, without a layer. */
import type { GuildPlace, Input, Member, Platform } from 'taxeon';

const PREFIX = '!';
const COOLDOWN_USES = 3;
const COOLDOWN_MS = 60_000;

interface Parsed {
  who: Member;
  pence: number;
  note: string | undefined;
}

type Handler = (message: Input, words: string[], platform: Platform) => Promise<string>;

export interface HandWrittenBot {
  /** Gives the code of what became of the message, or `undefined` for ordinary chat. */
  onMessage(message: Input, platform: Platform): Promise<string | undefined>;
}

export function handWrittenBot(now: () => number): HandWrittenBot {
  const uses = new Map<string, number[]>();
  const commands = new Map<string, Handler>();
  commands.set('fine', fine);
  commands.set('charge', fine);

  async function fine(message: Input, words: string[], platform: Platform): Promise<string> {
    const { caller, place } = message;
    const guildPlace = place as GuildPlace;
    if (caller.kind !== 'member') return 'place.wrong';
    if (!caller.permissions.has('fine')) {
      await say(platform, message, 'You need the permission fine for that.');
      return 'permission.caller';
    }
    const parsed = await parse(words, guildPlace, platform);
    if (typeof parsed === 'string') {
      await say(platform, message, 'Usage: !fine <who> <pence> [note…]');
      return parsed;
    }
    const { who, pence, note } = parsed;
    const bot = await platform.directory.self(guildPlace.guild);
    if (bot === undefined || !bot.permissions.has('fine')) {
      await say(platform, message, 'I need the permission fine here before I can do that.');
      return 'permission.bot';
    }
    if (who.id === bot.id) {
      await say(platform, message, 'That cannot be done to me.');
      return 'permission.target';
    }
    if (who.id === caller.id || who.ownsGuild || (!caller.ownsGuild && (caller.rank ?? 0) <= (who.rank ?? 0))) {
      await say(platform, message, 'You can do that only to somebody who ranks below you.');
      return 'permission.rank';
    }
    const time = now();
    const recent = (uses.get(caller.id) ?? []).filter((use) => use > time - COOLDOWN_MS);
    if (recent.length >= COOLDOWN_USES) {
      const seconds = Math.ceil(((recent[0] as number) + COOLDOWN_MS - time) / 1000);
      await say(platform, message, `Not yet. This works again in ${seconds} seconds.`);
      return 'cooldown.active';
    }
    recent.push(time);
    uses.set(caller.id, recent);
    await say(platform, message, `${who.name} owes ${pence} pence${note === undefined ? '' : ` (${note})`}.`);
    return 'completed';
  }

  return {
    async onMessage(message, platform) {
      const text = message.text ?? '';
      if (!text.startsWith(PREFIX)) return undefined;
      const words = text.slice(PREFIX.length).trim().split(/\s+/);
      const handler = commands.get((words[0] ?? '').toLowerCase());
      if (handler === undefined) return 'command.unknown';
      return handler(message, words.slice(1), platform);
    },
  };
}

const mention = /^<(\d{1,20})>$/;
const wholeNumber = /^\d+$/;

async function parse(words: string[], { guild }: GuildPlace, platform: Platform): Promise<Parsed | string> {
  const [whoText, penceText, ...rest] = words;
  if (whoText === undefined || penceText === undefined) return 'argument.missing';
  const id = mention.exec(whoText)?.[1] ?? whoText;
  const who = await platform.directory.member(guild, id);
  if (who === undefined || !wholeNumber.test(penceText)) return 'argument.invalid';
  const pence = Number.parseInt(penceText, 10);
  if (pence < 1 || pence > 500) return 'argument.invalid';
  return { who, pence, note: rest.length === 0 ? undefined : rest.join(' ') };
}

function say(platform: Platform, message: Input, body: string): unknown {
  return platform.deliver({ notice: { body }, visibleTo: 'everyone' }, message, '');
}
