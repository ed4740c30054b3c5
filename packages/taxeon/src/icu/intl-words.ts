/** Lists, numbers, lengths of time and dates in any language, through `Intl`. */
import type { Words } from '../contract/words.js';

const SECOND = 1000;
const units = [
  ['day', 86_400_000],
  ['hour', 3_600_000],
  ['minute', 60_000],
  ['second', SECOND],
] as const;

type Unit = (typeof units)[number][0] | 'millisecond';

/** What `Intl` knows of a language by itself: everything but what an argument takes. */
export type IntlWords = Omit<Words, 'expected' | 'amount'>;

/** @throws RangeError where `locale` is no language tag. */
export function intlWords(locale: string): IntlWords {
  // Made when first needed: each takes a while to make.
  const numbers = once(() => new Intl.NumberFormat(locale));
  const lists = {
    or: once(() => new Intl.ListFormat(locale, { type: 'disjunction' })),
    and: once(() => new Intl.ListFormat(locale, { type: 'conjunction' })),
  };
  const spans = once(() => new Intl.ListFormat(locale, { type: 'unit', style: 'narrow' }));
  const lengths = new Map<Unit, Intl.NumberFormat>();
  const zones = new Map<string, Intl.DateTimeFormat>();

  function inUnit(count: number, unit: Unit): string {
    let format = lengths.get(unit);
    if (format === undefined) {
      format = new Intl.NumberFormat(locale, { style: 'unit', unit, unitDisplay: 'long' });
      lengths.set(unit, format);
    }
    return format.format(count);
  }

  return {
    locale,
    list: (words, joined) => lists[joined]().format(words),
    number: (value) => numbers().format(value),
    duration: (ms) =>
      ms < SECOND
        ? inUnit(Math.ceil(ms), 'millisecond')
        : spans().format(parts(ms).map(([count, unit]) => inUnit(count, unit))),
    datetime(at, timeZone) {
      let format = zones.get(timeZone);
      if (format === undefined) {
        format = new Intl.DateTimeFormat(locale, { dateStyle: 'full', timeStyle: 'short', timeZone });
        zones.set(timeZone, format);
      }
      return format.format(at);
    },
  };
}

/** At most two units, rounded up, so that a wait is never told too short. */
function parts(ms: number): [number, Unit][] {
  let left = Math.ceil(ms / SECOND) * SECOND;
  const largest = units.findIndex(([, size]) => left >= size);
  const [, smallest] = units[Math.min(largest + 1, units.length - 1)] as (typeof units)[number];
  left = Math.ceil(left / smallest) * smallest;
  const found: [number, Unit][] = [];
  for (const [unit, size] of units) {
    const count = Math.floor(left / size);
    if (count > 0) found.push([count, unit]);
    left -= count * size;
  }
  return found.slice(0, 2);
}

function once<T>(make: () => T): () => T {
  let made: T | undefined;
  return () => {
    made ??= make();
    return made;
  };
}
