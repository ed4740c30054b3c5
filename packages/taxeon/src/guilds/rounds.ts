/** Looking at all guilds that are in memory again and again, a few at a time, for as long as they are in use. */
import { type Clock, inBackground } from '../base/time.js';

/** How long a round takes: what another process has changed is seen by then, whatever became of its message. */
export const ROUND_MS = 60_000;
/** The most steps of a round. */
const STEPS = 60;

export interface Rounds {
  /** Whether a guild was looked up since the round began. Set by who looks it up, since it is a hot path. */
  isUsed: boolean;
  /** Whether a round is under way. */
  readonly isOn: boolean;
  begin(): void;
  /** All of them soon: messages may have been missed. Ends where the store does not answer; the next round looks again. */
  hurry(): Promise<void>;
  stop(): void;
}

/** @param check never rejects; whether the store has answered */
export function roundsOver<Guild>(
  clock: () => Clock,
  guildsNow: () => readonly Guild[],
  check: (guild: Guild) => Promise<boolean>,
): Rounds {
  let cancel: (() => void) | undefined;
  let isOver = false;
  let isHurrying = false;

  function step(guilds: readonly Guild[], atOnce: number, from: number): void {
    const steps = Math.max(1, Math.min(STEPS, guilds.length));
    cancel = inBackground(clock(), ROUND_MS / steps, () => {
      void Promise.all(guilds.slice(from, from + atOnce).map(check));
      if (from + atOnce < guilds.length) return step(guilds, atOnce, from + atOnce);
      rounds.isOn = false;
      if (rounds.isUsed) rounds.begin();
    });
  }

  const rounds = {
    isUsed: false,
    isOn: false,
    begin() {
      if (isOver || rounds.isOn) return;
      rounds.isOn = true;
      rounds.isUsed = false;
      const guilds = guildsNow();
      step(guilds, Math.ceil(guilds.length / STEPS), 0);
    },
    async hurry() {
      if (isHurrying) return;
      isHurrying = true;
      const guilds = guildsNow();
      for (let from = 0; from < guilds.length && !isOver; from += STEPS) {
        const answered = await Promise.all(guilds.slice(from, from + STEPS).map(check));
        if (!answered.includes(true)) break;
      }
      isHurrying = false;
    },
    stop() {
      isOver = true;
      cancel?.();
    },
  };
  return rounds;
}
