/** Lists, numbers, lengths of time and dates in any language, through `Intl`. */
import { unitsOf } from '../base/time.js';
import type { Words } from '../contract/words.js';

/** What `Intl` knows of a language by itself: everything but what an argument takes. */
export type IntlWords = Omit<Words, 'expected'>;

/** @throws RangeError where `locale` is no language tag. */
export function intlWords(locale: string): IntlWords {
  // Made when first needed: each takes a while to make.
  const numbers = madeOnce(() => new Intl.NumberFormat(locale));
  const lists = {
    or: madeOnce(() => new Intl.ListFormat(locale, { type: 'disjunction' })),
    and: madeOnce(() => new Intl.ListFormat(locale, { type: 'conjunction' })),
  };
  const spans = madeOnce(() => new Intl.ListFormat(locale, { type: 'unit', style: 'narrow' }));
  const lengths = new Map<string, Intl.NumberFormat>();
  const zones = new Map<string, Intl.DateTimeFormat>();

  function inUnit(count: number, unit: string): string {
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
    duration: (ms) => spans().format(unitsOf(ms).map(([count, unit]) => inUnit(count, unit))),
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

function madeOnce<T>(make: () => T): () => T {
  let made: T | undefined;
  return () => {
    made ??= make();
    return made;
  };
}
