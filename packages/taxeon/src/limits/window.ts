/**
 * The exact sliding window over a log of times: a key may have at most `uses` in `(t − windowMs, t]`.
 * Known as the sliding-window log; its times are those of the grants alone. Moments are whole milliseconds; the
 * fraction of a use's time only tells it from others of the same millisecond.
 */

/** The first millisecond whose uses count still. */
export function countsSince(now: number, windowMs: number): number {
  return Math.floor(now) - windowMs + 1;
}

/** The index of the first of `times`, oldest first, that counts still. */
export function firstLive(times: readonly number[], now: number, windowMs: number): number {
  const since = countsSince(now, windowMs);
  let first = 0;
  while (first < times.length && (times[first] as number) < since) first++;
  return first;
}

/**
 * When `cost` more uses would be granted: `undefined` for now, otherwise the moment at which enough of
 * `times` have left the window. A cost above `uses` counts as `uses`.
 */
export function grantedFrom(
  times: readonly number[],
  now: number,
  uses: number,
  windowMs: number,
  cost: number,
): number | undefined {
  const first = firstLive(times, now, windowMs);
  const live = times.length - first;
  const tooMany = live + Math.min(cost, uses) - uses;
  return tooMany <= 0 ? undefined : Math.floor(times[first + tooMany - 1] as number) + windowMs;
}

/** About a microsecond, which a time since 1970 in milliseconds still holds exactly. */
export const TIME_STEP_MS = 2 ** -10;

/** The time of a new use: now, and later than the last one of its key, so that each can be told from every other. */
export function timeBehind(last: number, now: number): number {
  return last >= now ? last + TIME_STEP_MS : now;
}

/** Undoes the uses of one time, at most `cost` of them; how many these were. */
export function withoutUses(times: number[], at: number, cost: number): number {
  const last = times.lastIndexOf(at);
  if (last < 0) return 0;
  const count = Math.min(cost, last - times.indexOf(at) + 1);
  times.splice(last - count + 1, count);
  return count;
}

/** As much as this part of what is left. */
const PART = 1 / 100;

/**
 * How much one of many may have of what has a bound: the less is left, the less each, so that the one who fills it pays, and
 * there is some for who has little. Dynamic thresholds, after Choudhury and Hahne, 1998.
 */
export function shareOf(most: number, mostOfOne: number, used: number): number {
  return Math.min(mostOfOne, (most - used) * PART);
}

/** The window, for stores that decide by themselves. */
export const slidingWindow = {
  countsSince,
  firstLive,
  grantedFrom,
  timeBehind,
  withoutUses,
  stepMs: TIME_STEP_MS,
} as const;
