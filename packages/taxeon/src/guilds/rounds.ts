/** Looking at all guilds that are in memory again and again, a few at a time, for as long as they are in use. */
import { type Clock, inBackground } from '../base/time.js';

/** How long a round takes: what another process has changed is seen by then, whatever became of its message. */
export const ROUND_MS = 60_000;
/** The most steps of a round. */
const STEPS = 60;

export class Rounds<Guild> {
  /** Whether a guild was looked up since the round began. Set by who looks it up, since it is a hot path. */
  isUsed = false;
  /** Whether a round is under way. */
  isOn = false;
  #cancel: (() => void) | undefined = undefined;
  #isOver = false;
  #isHurrying = false;

  readonly #clock: () => Clock;
  readonly #guilds: () => readonly Guild[];
  readonly #check: (guild: Guild) => Promise<boolean>;

  /** @param check never rejects; whether the store has answered */
  constructor(clock: () => Clock, guilds: () => readonly Guild[], check: (guild: Guild) => Promise<boolean>) {
    this.#clock = clock;
    this.#guilds = guilds;
    this.#check = check;
  }

  begin(): void {
    if (this.#isOver || this.isOn) return;
    this.isOn = true;
    this.isUsed = false;
    const guilds = this.#guilds();
    this.#step(guilds, Math.ceil(guilds.length / STEPS), 0);
  }

  /** All of them soon: messages may have been missed. Ends where the store does not answer; the next round looks again. */
  async hurry(): Promise<void> {
    if (this.#isHurrying) return;
    this.#isHurrying = true;
    const guilds = this.#guilds();
    for (let from = 0; from < guilds.length && !this.#isOver; from += STEPS) {
      const answered = await Promise.all(guilds.slice(from, from + STEPS).map((guild) => this.#check(guild)));
      if (!answered.includes(true)) break;
    }
    this.#isHurrying = false;
  }

  stop(): void {
    this.#isOver = true;
    this.#cancel?.();
  }

  #step(guilds: readonly Guild[], atOnce: number, from: number): void {
    const steps = Math.max(1, Math.min(STEPS, guilds.length));
    this.#cancel = inBackground(this.#clock(), ROUND_MS / steps, () => {
      void Promise.all(guilds.slice(from, from + atOnce).map((guild) => this.#check(guild)));
      if (from + atOnce < guilds.length) return this.#step(guilds, atOnce, from + atOnce);
      this.isOn = false;
      if (this.isUsed) this.begin();
    });
  }
}
