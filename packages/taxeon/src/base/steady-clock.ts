/** Time that never goes back, and goes on whatever the machine's clock is set to. */
import type { Clock } from './time.js';

export interface SteadyClock extends Clock {
  /** In whole milliseconds: hot path, bench/rows/limits. */
  now(): number;
  /** How far `now` is ahead of the clock that it is made of, in milliseconds. */
  aheadMs(): number;
}

/** Between two looks at the elapsed time, which costs more than the time of day. */
const ANCHOR_EVERY_MS = 1000;

/**
 * Where a clock steps back, time goes on from where it was, by what has elapsed meanwhile where the clock knows that. A
 * step ahead cannot be told from a sleep of the machine, and counts.
 */
export function steadyClock(clock: Clock): SteadyClock {
  let aheadMs = 0;
  let lastWall = Math.floor(clock.now());
  let lastNow = lastWall;
  /** A moment at which all of the times were looked at. */
  let anchorWall = lastWall;
  let anchorNow = lastWall;
  let anchorElapsed = clock.elapsed?.() ?? 0;

  function anchorAt(wall: number): void {
    anchorWall = wall;
    anchorNow = wall + aheadMs;
    anchorElapsed = clock.elapsed?.() ?? 0;
  }

  function move(wall: number): void {
    // A clock of the developer's that does not know the time is not believed.
    if (Number.isNaN(wall)) return;
    if (wall < lastWall) {
      const since = Math.round((clock.elapsed?.() ?? 0) - anchorElapsed) || 0;
      aheadMs = Math.max(lastNow, anchorNow + since) - wall;
      anchorAt(wall);
    } else if (wall - anchorWall >= ANCHOR_EVERY_MS) anchorAt(wall);
    lastWall = wall;
    lastNow = wall + aheadMs;
  }

  return {
    ...clock,
    aheadMs: () => aheadMs,
    now() {
      const wall = Math.floor(clock.now());
      if (wall !== lastWall) move(wall);
      return lastNow;
    },
  };
}
