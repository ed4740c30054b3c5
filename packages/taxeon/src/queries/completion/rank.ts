/** Which offered values fit what is typed, the best first. */
import { foldName } from '../../base/text.js';
import type { Offered } from '../../commands/arg.js';

/** No list of values is looked at beyond this. */
const MOST_LOOKED_AT = 10_000;

/**
 * Beginnings first, then beginnings of words, then what is inside; within each as they were offered. Whatever
 * is no value is left out, and so is what was offered before.
 */
export function ranked(
  offered: unknown,
  typed: string,
  matching: 'beginning' | 'anywhere' = 'anywhere',
): readonly Offered[] {
  if (!Array.isArray(offered)) return [];
  const wanted = foldName(typed);
  const ranks: [Offered[], Offered[], Offered[]] = [[], [], []];
  const seen = new Set<string>();
  for (let index = 0; index < Math.min(offered.length, MOST_LOOKED_AT); index++) {
    const one = asOffered(offered[index]);
    if (one === undefined || seen.has(one.value)) continue;
    seen.add(one.value);
    const rank = Math.min(rankOf(foldName(one.value), wanted), rankOf(foldName(one.label ?? ''), wanted));
    ranks[rank]?.push(one);
  }
  return matching === 'beginning' ? ranks[0] : ranks.flat();
}

function asOffered(one: unknown): Offered | undefined {
  if (typeof one === 'string') return one === '' ? undefined : { value: one };
  if (typeof one !== 'object' || one === null) return undefined;
  const { value, label, description } = one as Partial<Record<keyof Offered, unknown>>;
  if (typeof value !== 'string' || value === '') return undefined;
  return {
    value,
    ...(typeof label === 'string' ? { label } : {}),
    ...(typeof description === 'string' ? { description } : {}),
  };
}

const NO_MATCH = 3;

function rankOf(text: string, wanted: string): number {
  const at = text.indexOf(wanted);
  if (at === 0) return 0;
  if (at < 0) return NO_MATCH;
  return new RegExp(`[^\\p{L}\\p{N}]${escaped(wanted)}`, 'u').test(text) ? 1 : 2;
}

function escaped(text: string): string {
  return text.replace(/[\\^$.*+?()[\]{}|/-]/g, '\\$&');
}
