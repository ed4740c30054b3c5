/** What can be wrong with a date or a time, and what would have been right. */
import { type Misread, mistaken } from '../kind.js';
import { plainly } from './expected.js';

const texts = {
  day: 'a date that exists',
  weekday: 'a day of the week and a date that fit together',
  time: 'a time from 0:00 to 23:59',
  skipped: 'a time that exists; clocks skip that one on that day',
  zone: 'a time with an offset such as UTC+2 or a zone such as Europe/London',
  evening: 'a time too',
  'one-time': 'one time, not the time between two',
  'one-day': 'a day',
} as const;

/** Says what is expected in place of a mistake in a moment. */
export type MomentKey = keyof typeof texts;

export const noSuchDay = mistake('day');
export const notThatDay = mistake('weekday');
export const noSuchTime = mistake('time');
export const skipped = mistake('skipped');
export const noSuchZone = mistake('zone');
export const notOneTime = mistake('one-time');
export const notOneDay = mistake('one-day');

function mistake(key: MomentKey): Misread {
  return mistaken(plainly(key, texts[key]));
}

/** @param example the day with an hour that is in the part of it */
export function withoutTime(example: string): Misread {
  return mistaken({ key: 'evening', parameters: { example }, english: texts.evening });
}
