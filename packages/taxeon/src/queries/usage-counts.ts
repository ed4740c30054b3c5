/** What was used how often. */

import { compareText } from '../base/text.js';
import type { Store } from '../contract/store.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { USAGE_PREFIX, type UsageCount } from '../observe/usage.js';

/**
 * How often which command ended how, by guild and day: what this process has counted, and all others up to 10 s ago.
 *
 * @example
 * const counts = await usageOf(layer);
 */
export async function usageOf(layer: CommandLayer): Promise<readonly UsageCount[]> {
  const { needs, asking } = insideOf(layer);
  const { usage } = needs.settle;
  const { store } = asking;
  await usage?.flush();
  return usageIn(store);
}

/**
 * All that a store has counted, oldest day first.
 *
 * @example
 * for (const { day, command, status, count } of await usageIn(store)) console.log(day, command, status, count);
 */
export async function usageIn(store: Store): Promise<readonly UsageCount[]> {
  const counts: UsageCount[] = [];
  for (const [key, value] of await store.entries(USAGE_PREFIX)) {
    const [day = '', platform = '', guild = '', command = '', status = ''] = key
      .slice(USAGE_PREFIX.length)
      .split('/')
      .map(decodeURIComponent);
    counts.push({ day, platform, guild, command, status: status as UsageCount['status'], count: Number(value) });
  }
  return counts.sort(
    (a, b) => compareText(a.day, b.day) || compareText(a.guild, b.guild) || compareText(a.command, b.command),
  );
}
