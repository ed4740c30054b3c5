/** Telling a command from ordinary chat. */
import { closersOf, isGap, isWordAt } from '../base/text.js';

/** Finds where a command begins behind one of a set of prefixes. */
export interface PrefixMatcher {
  /** The position of the command's name, or -1 for ordinary chat. Allocates nothing. */
  match(text: string, from?: number): number;
  /** The first of them as it stands in front of a name: `!`, `mallet `; nothing where there is none. */
  readonly written: string;
  /** The most characters that `isCalledAlone` is true of: ordinary chat is longer. */
  readonly longestCall: number;
  /** Whether a text is a word of these alone, as the bot is called: `Mallet:`, `Mallet?`. */
  isCalledAlone(text: string): boolean;
}

/**
 * Compiles prefixes. The longest that fits wins; a sign (`!`, as wide as it may be) stands right before the name, a word
 * (`mallet`) is parted from it by space, with or without a comma or a colon, and compared without case. Hot path:
 * bench/rows/calls.
 */
export function prefixMatcher(prefixes: readonly string[]): PrefixMatcher {
  const longestFirst = [...prefixes].sort((a, b) => b.length - a.length);
  const firsts = firstCharacters(longestFirst);
  const rules = longestFirst.map((prefix) => ({ prefix, isWord: isWordAt(prefix, prefix.length - 1) }));
  const longestCall = Math.max(0, ...rules.map(({ prefix, isWord }) => (isWord ? prefix.length + MOST_AROUND : 0)));
  const behind = (text: string, from: number, signsAlone: boolean): number => {
    for (const { prefix, isWord } of rules) {
      if (isWord && signsAlone) continue;
      const at = isWord ? afterWord(text, prefix, from) : afterSign(text, prefix, from);
      if (at < 0) continue;
      // Behind the bot's name, a sign may stand as well.
      const signed = isWord ? behind(text, at, true) : -1;
      if (signed >= 0) return signed;
      if (beginsCommand(text, at)) return at;
    }
    return -1;
  };
  const [first = ''] = prefixes;
  return {
    written: isWordAt(first, first.length - 1) ? `${first} ` : first,
    match(text, from = 0) {
      const first = text.charCodeAt(from);
      if (first < 0x80 && first > 0x20) return firsts[first] === 1 ? behind(text, from, false) : -1;
      if (!isGap(first) && firsts[0x80] !== 1 && !isWide(first)) return -1;
      let at = from;
      while (at < from + MOST_BLANK && isGap(text.charCodeAt(at))) at++;
      return behind(text, at, false);
    },
    longestCall,
    isCalledAlone(text) {
      if (!isCalling(text.charCodeAt(text.length - 1))) return false;
      const called = text.slice(0, -1).trim().toLowerCase();
      return rules.some(({ prefix, isWord }) => isWord && prefix.toLowerCase() === called);
    },
  };
}

/** Space and a sign around a name that is called. */
const MOST_AROUND = 4;

/** What stands behind a name that is called. */
function isCalling(unit: number): boolean {
  return unit === COMMA || unit === COLON || unit === QUESTION_MARK;
}

const QUESTION_MARK = 0x3f;

/** Nobody who calls a bot types more space in front. */
const MOST_BLANK = 16;

/** A sign as keyboards for Chinese, Japanese and Korean give it: `！`. */
function isWide(unit: number): boolean {
  return unit > FIRST_WIDE && unit < FIRST_WIDE + 0x5f;
}

/** In Unicode's block of full-width forms, where the space would be. */
const FIRST_WIDE = 0xff00;

/** One flag an ASCII character that a prefix begins with, and one for all others. */
function firstCharacters(prefixes: readonly string[]): Uint8Array {
  const firsts = new Uint8Array(0x81);
  for (const prefix of prefixes) {
    for (const form of [prefix, prefix.toLowerCase(), prefix.toUpperCase()]) {
      firsts[Math.min(form.charCodeAt(0), 0x80)] = 1;
    }
  }
  return firsts;
}

function afterSign(text: string, prefix: string, from: number): number {
  const end = from + prefix.length;
  if (text.startsWith(prefix, from)) return end;
  return isWide(text.charCodeAt(from)) && text.slice(from, end).normalize('NFKC') === prefix ? end : -1;
}

function afterWord(text: string, prefix: string, from: number): number {
  let at = from + prefix.length;
  if (text.slice(from, at).toLowerCase() !== prefix.toLowerCase()) return -1;
  const sign = text.charCodeAt(at);
  if (sign === COMMA || sign === COLON) at++;
  if (!isGap(text.charCodeAt(at))) return -1;
  while (isGap(text.charCodeAt(at))) at++;
  return at;
}

const COMMA = 0x2c;
const COLON = 0x3a;

/** `!!!` and `! ` are chat: a command begins with a letter, a digit or a quote. */
export function beginsCommand(text: string, position: number): boolean {
  return position < text.length && (isWordAt(text, position) || closersOf(text.charCodeAt(position)) !== undefined);
}
