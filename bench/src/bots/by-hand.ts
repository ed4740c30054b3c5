/** What all bots that are written by hand share: what they read, whom they let, how often. */
import type { GuildPlace, Member } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';

export const PREFIX = '!';
const MINUTE = 60_000;

/** Gives the code of what became of the message; `undefined` for ordinary chat. */
export interface ByHand<Code> {
  onMessage(message: Input, platform: Platform): Code;
}

/** What a command found wrong, or what it says. */
export type Result = { readonly code: string; readonly says: string };

export const usage: Result['says'] = 'Usage: !fine <who> <pence> [note…]';
const mention = /^\[p:([\w-]{1,24})\]$/;
const wholeNumber = /^\d+$/;

export function isWholeNumber(text: string): boolean {
  return wholeNumber.test(text);
}

export function idIn(text: string): string {
  return mention.exec(text)?.[1] ?? text;
}

export function isAmount(pence: number): boolean {
  return Number.isInteger(pence) && pence >= 1 && pence <= 500;
}

export function wordsOf(text: string): string[] {
  return text.slice(PREFIX.length).trim().split(/\s+/);
}

/** Why the caller may not fine that person; `undefined` where they may. */
export function refusalFor(caller: Member, who: Member, bot: Member | undefined): Result | undefined {
  if (bot === undefined || !bot.permissions.has('fine')) {
    return { code: 'permission.bot', says: 'I need the permission fine here before I can do that.' };
  }
  if (who.id === bot.id) return { code: 'permission.target', says: 'That cannot be done to me.' };
  if (who.id === caller.id || who.ownsGuild || (!caller.ownsGuild && (caller.rank ?? 0) <= (who.rank ?? 0))) {
    return { code: 'permission.rank', says: 'You can do that only to people who rank below you.' };
  }
  return undefined;
}

export const lacksPermission: Result = { code: 'permission.caller', says: 'You need the permission fine for that.' };

/** So many uses in a minute for each key. */
export class Cooldown {
  private readonly uses = new Map<string, number[]>();

  constructor(
    private readonly most: number,
    private readonly now: () => number,
  ) {}

  /** Why not; a use is taken where nothing is wrong. */
  take(key: string): Result | undefined {
    const now = this.now();
    const recent = (this.uses.get(key) ?? []).filter((use) => use > now - MINUTE);
    if (recent.length >= this.most) {
      const seconds = Math.ceil(((recent[0] as number) + MINUTE - now) / 1000);
      return { code: 'cooldown.active', says: `Not yet. This works again in ${seconds} seconds.` };
    }
    recent.push(now);
    this.uses.set(key, recent);
    return undefined;
  }
}

export function owes(who: Member, pence: number, note: string | undefined): string {
  return `${who.name} owes ${pence} pence${note === undefined ? '' : ` (${note})`}.`;
}

export function guildOf(message: Input): GuildPlace['guild'] {
  return (message.place as GuildPlace).guild;
}

export function say(platform: Platform, message: Input, body: string): PromiseLike<unknown> {
  return Promise.resolve(platform.deliver({ notice: { body }, visibleTo: 'everyone' }, message, ''));
}
