/** English, the language of the core. */
import { either } from '../base/text.js';
import { durationInWords } from '../base/time.js';
import { expectedInEnglish } from '../contract/expectation.js';
import type { Words } from '../contract/words.js';
import type { Language } from './language.js';

let dates: Intl.DateTimeFormat | undefined;
let datesZone = '';

const words: Words = {
  locale: 'en',
  list: (all, joined) => (joined === 'or' ? either(all) : either(all, 'and')),
  number: (value) => value.toLocaleString('en'),
  duration: durationInWords,
  datetime(at, timeZone) {
    if (dates === undefined || datesZone !== timeZone) {
      dates = new Intl.DateTimeFormat('en-GB', { dateStyle: 'full', timeStyle: 'short', timeZone });
      datesZone = timeZone;
    }
    return dates.format(at);
  },
  expected: expectedInEnglish,
};

/** The language of the core; every other comes from `@taxeon/icu`, or is one's own. */
export const english: Language = { locale: 'en', words };
