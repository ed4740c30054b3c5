/**
 * The exact sliding window over a log of times: a key may have at most `uses` in `(t − windowMs, t]`.
 * Known as the sliding-window log; its times are those of the grants alone.
 */

/** The index of the first of `times`, oldest first, that is later than `past`. */
export function firstAfter(times: readonly number[], past: number): number {
  let first = 0;
  while (first < times.length && (times[first] as number) <= past) first++;
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
  const first = firstAfter(times, now - windowMs);
  const live = times.length - first;
  const tooMany = live + Math.min(cost, uses) - uses;
  return tooMany <= 0 ? undefined : (times[first + tooMany - 1] as number) + windowMs;
}
