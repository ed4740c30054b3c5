/** How many lines may wait for their guild's settings; beyond that, a line is chat. */
import { shareOf } from './recent.js';

/** A slow store must not let one guild's lines pile up, nor those of many guilds together. */
const MOST_IN_A_GUILD = 50;
const MOST_IN_ALL = 5000;

export class Waiting {
  readonly #guilds = new Map<string, number>();
  #all = 0;

  /** Whether one more may wait. */
  hasRoom(guildKey: string): boolean {
    return (this.#guilds.get(guildKey) ?? 0) < shareOf(MOST_IN_ALL, MOST_IN_A_GUILD, this.#all);
  }

  /** `end` must be called for it. */
  begin(guildKey: string): void {
    this.#guilds.set(guildKey, (this.#guilds.get(guildKey) ?? 0) + 1);
    this.#all += 1;
  }

  end(guildKey: string): void {
    const here = (this.#guilds.get(guildKey) ?? 1) - 1;
    this.#all -= 1;
    if (here === 0) this.#guilds.delete(guildKey);
    else this.#guilds.set(guildKey, here);
  }
}
