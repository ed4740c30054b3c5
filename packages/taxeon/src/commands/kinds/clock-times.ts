/** What a clock shows, as people say it: `5pm`, `17h30`, `half past five`. */
import type { WallTime } from '../../base/zone.js';
import { isMisread, type Misread } from '../kind.js';
import { countOfWord } from './lengths.js';
import { noSuchTime } from './moment-mistakes.js';
import { clockForm, dottedForm, hourForm, lettered } from './moment-words.js';

export type ClockTime = Pick<WallTime, 'hour' | 'minute' | 'second' | 'ms'>;

/** Words of a moment, with a letter for each. */
export interface TimeWords {
  readonly words: readonly string[];
  readonly letters: string;
}

export const midnight: ClockTime = { hour: 0, minute: 0, second: 0, ms: 0 };

/** From which hour until which, and one that is in the middle of it. */
export const partsOfDay: ReadonlyMap<string, readonly [from: number, to: number, hour: number]> = new Map([
  ['morning', [0, 12, 9]],
  ['afternoon', [12, 19, 15]],
  ['evening', [16, 24, 19]],
  ['night', [18, 24, 21]],
  ['tonight', [17, 24, 20]],
]);

/** What a clock shows; of an hour alone, such as `at 5`, both that it may be, unless a part of the day tells. */
export function clocksOf(time: TimeWords, part: string | undefined): readonly ClockTime[] | Misread {
  const [from, to, middle] = partsOfDay.get(part ?? '') ?? [0, 24, 0];
  if (time.letters === '') return [{ ...midnight, hour: middle }];
  const clocks = clocksAt(time);
  if (isMisread(clocks) || time.words[0] === 'midnight') return clocks;
  const fitting = clocks.filter(({ hour }) => from <= hour && hour < to);
  return fitting.length === 0 ? noSuchTime : fitting;
}

function clocksAt({ words: [word = '', second = '', third = ''], letters }: TimeWords): readonly ClockTime[] | Misread {
  if (word === 'midnight') return [midnight];
  if (word === 'noon') return [{ ...midnight, hour: 12 }];
  if (letters.startsWith('Q')) return byQuarters(word, second, third);
  const [, hours, minutes = '0', seconds = '0', ms = '', attached] = clockForm.exec(word) ?? [];
  const [, lettedHour, lettedMinute = '0'] = lettered.exec(word) ?? [];
  const [, fourHour, fourMinute = '0'] = letters === 'Y' ? (/^(..)(..)$/.exec(word) ?? []) : [];
  const named = hours ?? lettedHour ?? fourHour;
  const hour = named === undefined ? (countOfWord(word) ?? Number.parseInt(word, 10)) : Number(named);
  const minute = Number(lettedHour === undefined ? (fourHour === undefined ? minutes : fourMinute) : lettedMinute);
  const clock = { hour, minute, second: Number(seconds), ms: Number(ms.padEnd(3, '0')) };
  const byDot = letters === 's' ? dottedForm.exec(word) : null;
  if (letters === 's' && byDot === null) return noSuchTime;
  if (byDot !== null) {
    const [, dotHour, dotMinute] = byDot.map(Number);
    return clocksAt({ words: [`${dotHour}:${String(dotMinute).padStart(2, '0')}`], letters: 'C' });
  }
  const half = attached ?? hourForm.exec(word)?.[2] ?? (letters.endsWith('H') ? second : undefined);
  if (minute > 59 || clock.second > 59 || hour > 23) return noSuchTime;
  if (half !== undefined)
    return hour < 1 || hour > 12 ? noSuchTime : [{ ...clock, hour: (hour % 12) + (half.startsWith('p') ? 12 : 0) }];
  return named === undefined ? bothHalves(clock) : [clock];
}

/** `half past five`, `quarter to six`. */
function byQuarters(count: string, how: string, word: string): readonly ClockTime[] | Misread {
  const hour = countOfWord(word);
  // `half five` is half past four in some languages.
  if (hour === undefined || hour > 23 || (count === 'half' && how !== 'past')) return noSuchTime;
  const minute = count === 'half' ? 30 : how === 'past' ? 15 : 45;
  return bothHalves({ ...midnight, hour: how === 'past' ? hour : (hour + 23) % 24, minute });
}

function bothHalves(clock: ClockTime): readonly ClockTime[] {
  const { hour } = clock;
  return hour < 1 || hour > 12 ? [clock] : [0, 12].map((half) => ({ ...clock, hour: (hour % 12) + half }));
}
