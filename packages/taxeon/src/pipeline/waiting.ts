/** How many lines may wait for their guild's settings; beyond that, a line is chat. */
import { shareOf } from '../limits/window.js';

/** A slow store must not let one guild's lines pile up, nor those of many guilds together. */
const MOST_IN_A_GUILD = 50;
const MOST_IN_ALL = 5000;

export interface WaitingLines {
  /** Whether one more may wait. */
  hasRoom(guildKey: string): boolean;
  /** `end` must be called for it. */
  begin(guildKey: string): void;
  end(guildKey: string): void;
}

export function noneWaiting(): WaitingLines {
  const guilds = new Map<string, number>();
  let all = 0;
  function add(guildKey: string, more: 1 | -1): void {
    const here = (guilds.get(guildKey) ?? 0) + more;
    all += more;
    if (here > 0) guilds.set(guildKey, here);
    else guilds.delete(guildKey);
  }
  return {
    hasRoom: (guildKey) => (guilds.get(guildKey) ?? 0) < shareOf(MOST_IN_ALL, MOST_IN_A_GUILD, all),
    begin: (guildKey) => add(guildKey, 1),
    end: (guildKey) => add(guildKey, -1),
  };
}
