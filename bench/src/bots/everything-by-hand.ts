/** The lean bot with all that a larger one has: settings of guilds, event ids, a running limit, two cooldowns, listeners. */
import { EventEmitter } from 'node:events';
import type { GuildSettings, Member } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import {
  type ByHand,
  Cooldown,
  guildOf,
  idIn,
  isAmount,
  isWholeNumber,
  lacksPermission,
  owes,
  PREFIX,
  type Result,
  refusalFor,
  say,
  usage,
} from './by-hand.js';
import { listen } from './listeners.js';

/** Ids are kept for two turns, each of so many. */
const MOST_IDS = 100_000;
const MOST_RUNNING = 1000;

interface Fine {
  readonly who: Member;
  readonly pence: number;
  readonly note: string | undefined;
}

export interface EverythingByHand extends ByHand<PromiseLike<string> | string | undefined> {
  readonly heard: { count: number };
}

export function everythingByHand(now: () => number, stored: ReadonlyMap<string, GuildSettings>): EverythingByHand {
  const emitter = new EventEmitter();
  const heard = { count: 0 };
  listen((name, listener) => emitter.on(name, listener), heard);
  const byUser = new Cooldown(3, now);
  const byUserHere = new Cooldown(3, now);
  const running = new Map<string, number>();
  let recent = new Set<string>();
  let older = new Set<string>();

  function isRepeated(id: string): boolean {
    if (recent.has(id) || older.has(id)) return true;
    if (recent.size >= MOST_IDS) {
      older = recent;
      recent = new Set();
    }
    recent.add(id);
    return false;
  }

  function read(words: string[], message: Input, platform: Platform): Fine | Result {
    const [whoText, penceText, ...rest] = words;
    if (whoText === undefined || penceText === undefined) return { code: 'argument.missing', says: usage };
    const who = platform.directory.member(guildOf(message), idIn(whoText)) as Member | undefined;
    const pence = Number.parseInt(penceText, 10);
    if (who === undefined || !isWholeNumber(penceText) || !isAmount(pence)) {
      return { code: 'argument.invalid', says: usage };
    }
    return { who, pence, note: rest.length === 0 ? undefined : rest.join(' ') };
  }

  function fine(message: Input, words: string[], platform: Platform, settings: GuildSettings | undefined): Result {
    const { caller } = message;
    const guild = guildOf(message);
    if (caller.kind !== 'member') return { code: 'place.wrong', says: 'That works only in a guild.' };
    if (settings?.off?.includes('fine')) return { code: 'command.unavailable', says: 'That is switched off here.' };
    const rule = settings?.rules?.find((one) => one.command === 'fine' && one.member === caller.id);
    if (rule?.verdict === 'deny' || (rule === undefined && !caller.permissions.has('fine'))) return lacksPermission;
    const given = read(words, message, platform);
    if ('code' in given) return given;
    const bot = platform.directory.self(guild) as Member | undefined;
    const refusal =
      refusalFor(caller, given.who, bot) ?? byUser.take(caller.id) ?? byUserHere.take(`${guild.id} ${caller.id}`);
    if (refusal !== undefined) return refusal;
    const runs = running.get(guild.id) ?? 0;
    if (runs >= MOST_RUNNING) return { code: 'running.full', says: 'That runs already.' };
    running.set(guild.id, runs + 1);
    try {
      emitter.emit('started', {
        input: message,
        platform: platform.name,
        command: 'fine',
        alias: 'charge',
        args: given,
      });
      return { code: 'completed', says: owes(given.who, given.pence, given.note) };
    } finally {
      running.set(guild.id, (running.get(guild.id) ?? 1) - 1);
    }
  }

  return {
    heard,
    onMessage(message, platform) {
      const settings = stored.get(guildOf(message).id);
      const text = message.text ?? '';
      const prefix = settings?.prefixes?.find((one) => text.startsWith(one)) ?? PREFIX;
      if (!text.startsWith(prefix)) return undefined;
      if (message.id !== undefined && isRepeated(message.id)) return undefined;
      const began = performance.now();
      const words = text.slice(prefix.length).trim().split(/\s+/);
      const name = (words[0] ?? '').toLowerCase();
      if (name !== 'fine' && name !== 'charge') return 'command.unknown';
      const { code, says } = fine(message, words.slice(1), platform, settings);
      return say(platform, message, says).then(() => {
        const status = code === 'completed' ? code : 'refused';
        const event = { input: message, platform: platform.name, command: 'fine', status, code, says };
        emitter.emit(status, { ...event, tookMs: performance.now() - began });
        emitter.emit('ended', { ...event, tookMs: performance.now() - began });
        return code;
      });
    },
  };
}
