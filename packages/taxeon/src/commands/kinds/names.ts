/** The names of a list, and which of them a text names: what choices, members, roles and channels share. */
import { mostSlips, nearNames, slipsFrom } from '../../base/near.js';
import { compareText, echoText, foldName } from '../../base/text.js';
import { Apart, Misread } from '../kind.js';

/** How a name may be given. `'exact'` leaves out unique beginnings, for commands that must not hit the wrong one. */
export type NameMatch = 'beginning' | 'exact';

const MOST_NAMED = 5;
const MOST_NEAR = 3;
/** A name of more words is written in quotes. */
export const MOST_WORDS = 12;
export const LONGEST_NAME = 100;
/** What a thing is called, and its other names. */
export type Called = string | readonly [name: string, ...also: string[]];

/** The names of a list, made once; it says which of them a text names, by its place in the list. */
export class ThingNames {
  /** All that is understood, without case, with the place of what it names. */
  readonly #names: string[] = [];
  readonly #places: number[] = [];
  readonly #exact = new Map<string, number[]>();
  /** Whether several are called alike, so that what tells them apart counts. */
  hasTwins = false;
  /** In order of the alphabet: made where a name is no more than begun. */
  #sorted: readonly number[] | undefined;
  /** Without accents, and which letters are in each: made where somebody has mistyped a name. */
  #bare: readonly string[] | undefined;
  #letters: Uint32Array | undefined;
  /** What was asked for last: a refusal asks for what was asked of its words. */
  #last: { readonly typed: string; readonly near: readonly number[] } | undefined;

  constructor(
    readonly called: readonly Called[],
    /** What people are shown. */
    readonly labels: readonly string[],
    readonly isDeclared: boolean,
  ) {
    for (const [place, names] of called.entries()) {
      const own = plainName(nameOf(names));
      this.hasTwins ||= this.#exact.has(own);
      this.#add(own, place);
      if (typeof names !== 'string') for (const name of names.slice(1)) this.#add(plainName(name), place);
      const label = labels[place] as string;
      // What tells it apart stands in brackets, which few type.
      if (label !== nameOf(names))
        for (const one of [label, label.replace(/[()]/g, '')]) this.#add(plainName(one), place);
    }
  }

  #add(name: string, place: number): void {
    if (name === '') return;
    this.#names.push(name);
    this.#places.push(place);
    const same = this.#exact.get(name);
    if (same === undefined) this.#exact.set(name, [place]);
    else if (same.at(-1) !== place) same.push(place);
  }

  /**
   * The place of the thing of that name, or of the only one whose name begins so; a misread that names the matches where
   * several do. What may be a name of one word and a word of something else is told apart by what may follow.
   */
  find(typed: string, match: NameMatch): number | Apart<number> | Misread | undefined {
    const wanted = plainName(typed);
    if (wanted === '') return undefined;
    const exact = this.#exact.get(wanted);
    if (exact === undefined && match === 'exact') return undefined;
    const places = exact ?? this.#beginningWith(wanted, MOST_NAMED);
    const [place] = places;
    if (place === undefined) return undefined;
    if (places.length > 1) return this.#several(places);
    const shorter = this.#firstWords(wanted);
    return shorter === undefined || shorter === place
      ? place
      : new Apart(place, [this.shown(place), this.shown(shorter)], exact !== undefined, true);
  }

  #several(places: readonly number[]): Misread {
    return new Misread('argument.ambiguous', { matches: places.slice(0, MOST_NAMED).map((one) => this.shown(one)) });
  }

  shown(place: number): string {
    const label = this.labels[place] as string;
    return this.isDeclared ? label : echoText(label) || '?';
  }

  /** What a text names without its last word. */
  #firstWords(wanted: string): number | undefined {
    const at = wanted.lastIndexOf(' ');
    return at < 0 ? undefined : this.#exact.get(wanted.slice(0, at))?.[0];
  }

  #beginningWith(wanted: string, most: number): number[] {
    const found = new Set<number>();
    for (const name of this.#namesFrom(wanted)) {
      found.add(this.#places[name] as number);
      if (found.size === most) break;
    }
    return [...found];
  }

  /** The names that begin with a text, in order of the alphabet, by where they stand. */
  *#namesFrom(wanted: string): Generator<number> {
    const names = this.#names;
    this.#sorted ??= names
      .map((_, index) => index)
      .sort((one, other) => compareText(names[one] as string, names[other] as string));
    const sorted = this.#sorted;
    let from = 0;
    for (let to = sorted.length; from < to; ) {
      const middle = (from + to) >> 1;
      if ((names[sorted[middle] as number] as string) < wanted) from = middle + 1;
      else to = middle;
    }
    for (let at = from; at < sorted.length; at++) {
      const index = sorted[at] as number;
      if (!(names[index] as string).startsWith(wanted)) return;
      yield index;
    }
  }

  /** Whether a name is this, or begins so. */
  begins(typed: string): boolean {
    const wanted = plainName(typed);
    return wanted !== '' && (this.#exact.has(wanted) || this.#beginningWith(wanted, 1).length > 0);
  }

  /** Whether a word goes on a name, or almost; or whether it is a name, with something in front that is none. */
  goesOn(typed: string, word: string): boolean {
    if (typed.length + word.length > LONGEST_NAME) return false;
    const next = plainName(withoutStop(word));
    // What nobody sees is no word of a name.
    if (next === '') return false;
    if (this.begins(`${typed} ${next}`)) return true;
    if (next.length < SHORTEST_SLIP) return false;
    const begun = plainName(typed);
    if (this.begins(typed)) return nearNames(next, this.#wordsBehind(begun), 1).length > 0;
    if (this.#isAlmost(`${begun} ${next}`)) return true;
    return !begun.includes(' ') && this.#exact.has(next) && !this.isNear(typed);
  }

  /** Whether these are almost the first words of a name. */
  #isAlmost(words: string): boolean {
    const count = words.split(' ').length;
    return this.#within(words, Math.min(2, mostSlips(words)), { letters: MOST_LETTERS }, (look, name, at) => {
      let end = -1;
      for (let word = 0; word < count && (word === 0 || end >= 0); word++) end = name.indexOf(' ', end + 1);
      return look(at, 0, end < 0 ? name.length : end);
    });
  }

  /** The words that follow where a name begins with these, of which the last may be no more than begun. */
  #wordsBehind(begun: string): ReadonlySet<string> {
    const words = new Set<string>();
    let lookedAt = 0;
    for (const index of this.#namesFrom(begun)) {
      const name = this.#names[index] as string;
      const space = name.indexOf(' ', begun.length);
      if (space >= 0) words.add(name.slice(space + 1).split(' ', 1)[0] as string);
      if (++lookedAt === MOST_LOOKED_AT) break;
    }
    return words;
  }

  /** Whether one who types this means one of the names, or probably does. */
  isMeant(typed: string): boolean {
    return (
      this.begins(typed) || this.isNear(typed) || this.#exact.has(plainName(typed).replace(/^(?:the|an?|my) /, ''))
    );
  }

  /** Whether one who types this probably means one of the names. */
  isNear(typed: string): boolean {
    return this.#nearest(typed).length > 0;
  }

  /** What one who types this probably means: by a slip, by a word of a name, or with a word in front. */
  near(typed: string): readonly string[] {
    let places = this.#nearest(typed);
    const wanted = plainName(typed);
    for (let at = wanted.indexOf(' '); at > 0 && places.length === 0; at = wanted.indexOf(' ', at + 1)) {
      places = this.#exact.get(wanted.slice(at + 1)) ?? [];
    }
    return places.slice(0, MOST_NEAR).map((one) => this.shown(one));
  }

  #nearest(typed: string): readonly number[] {
    if (this.#last?.typed !== typed) this.#last = { typed, near: this.#nearestTo(withoutAccents(typed)) };
    return this.#last.near;
  }

  /** The places of those that are nearest, or have a word that is: with the fewest slips, and of these the first few. */
  #nearestTo(typed: string): readonly number[] {
    const isWord = !typed.includes(' ') && typed.length >= SHORTEST_WORD;
    const most = mostSlips(typed);
    const left = { letters: MOST_LETTERS };
    for (let slips = 1; slips <= most && left.letters > 0; slips++) {
      const found = new Set<number>();
      this.#within(typed, slips, left, (look, name, at) => {
        let isFound = look(at, 0, name.length);
        for (let start = 0, end = name.indexOf(' '); isWord && !isFound && end > 0; start = end + 1) {
          end = name.indexOf(' ', start);
          isFound = look(at, start, end < 0 ? name.length : end);
        }
        if (isFound) found.add(this.#places[at] as number);
        return found.size === MOST_NEAR;
      });
      if (found.size > 0) return [...found];
    }
    return [];
  }

  /** Goes through the names that have almost all letters of a text, until `take` gives true; through so many, and no more. */
  #within(
    typed: string,
    slips: number,
    left: { letters: number },
    take: (look: (at: number, start: number, end: number) => boolean, name: string, at: number) => boolean,
  ): boolean {
    this.#bare ??= this.#names.map(withoutAccents);
    this.#letters ??= Uint32Array.from(this.#bare, lettersIn);
    const measure = slipsFrom(typed, slips);
    if (measure === undefined) return false;
    const wanted = lettersIn(typed);
    const look = (at: number, start: number, end: number) => {
      const measured = measure(this.#bare?.[at] as string, start, end);
      left.letters -= measured.letters;
      return measured.slips !== undefined;
    };
    for (let at = 0; at < this.#bare.length && left.letters > 0; at++) {
      // A slip makes up for one letter that is not there.
      if (countOf(wanted & ~(this.#letters[at] as number)) > slips) continue;
      if (take(look, this.#bare[at] as string, at)) return true;
    }
    return false;
  }
}

/** Which letters a text has, a bit each, of which several letters share one. */
function lettersIn(text: string): number {
  let letters = 0;
  for (let index = 0; index < text.length; index++) letters |= 1 << (text.charCodeAt(index) & 31);
  return letters;
}

function countOf(bits: number): number {
  let count = 0;
  for (let left = bits; left !== 0; left &= left - 1) count++;
  return count;
}

/** So many letters are compared for one text, and no more: it blocks nobody, however many there are. */
const MOST_LETTERS = 10_000;

const MOST_LOOKED_AT = 500;
/** In a shorter word, one slip makes another. */
const SHORTEST_SLIP = 3;
/** Shorter ones are in too many names to say which was meant. */
const SHORTEST_WORD = 4;

export function nameOf(called: Called): string {
  return typeof called === 'string' ? called : called[0];
}

/** Without what ends a sentence or a part of it. */
export function withoutStop(text: string): string {
  return text.replace(/(?<=.)[,.;:!?]{1,8}$/, '');
}

export function firstWord(text: string): string {
  return text.split(/\s/, 1)[0] ?? '';
}

/** A letter first: neither a mention nor a number. */
export function isWord(text: string): boolean {
  const first = text.charCodeAt(0);
  return first < 0x80 ? (first | 0x20) >= 0x61 && (first | 0x20) <= 0x7a : /^\p{L}/u.test(text);
}

/** Without the sign that some systems show in front of names, and people leave out or put there. */
export function plainName(name: string): string {
  const folded = foldName(name);
  return /^[@#]|\s\s|^\s|\s$|[^\S ]/.test(folded)
    ? folded
        .replace(/\s+/g, ' ')
        .trim()
        .replace(/^[@#]\s*/, '')
    : folded;
}

export function withoutAccents(name: string): string {
  const plain = plainName(name);
  return /^[\0-\x7f]*$/.test(plain) ? plain : plain.normalize('NFD').replace(/\p{M}+/gu, '');
}
