/** Telling a command from ordinary chat. */
import { closersOf, isSpace, isWordAt } from './characters.js';

/** Finds where a command begins behind one of a set of prefixes. */
export interface PrefixMatcher {
  /** The position of the command's name, or -1 for ordinary chat. Allocates nothing. */
  match(text: string): number;
}

/**
 * Compiles prefixes. The longest that fits wins; a sign (`!`) stands right before the name, a word
 * (`mallet`) is parted from it by space and compared without case. Hot path: bench/rows/calls.
 */
export function prefixMatcher(prefixes: readonly string[]): PrefixMatcher {
  const longestFirst = [...prefixes].sort((a, b) => b.length - a.length);
  const firsts = firstCharacters(longestFirst);
  const rules = longestFirst.map((prefix) => ({
    prefix,
    isWord: isWordAt(prefix, prefix.length - 1),
  }));
  return {
    match(text) {
      const first = text.charCodeAt(0);
      if (first < 0x80 ? firsts[first] !== 1 : firsts[0x80] !== 1) return -1;
      for (const { prefix, isWord } of rules) {
        const at = isWord ? afterWord(text, prefix) : afterSign(text, prefix);
        if (at >= 0) return at;
      }
      return -1;
    },
  };
}

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

function afterSign(text: string, prefix: string): number {
  return text.startsWith(prefix) && beginsCommand(text, prefix.length) ? prefix.length : -1;
}

function afterWord(text: string, prefix: string): number {
  if (text.slice(0, prefix.length).toLowerCase() !== prefix.toLowerCase()) return -1;
  let at = prefix.length;
  while (isSpace(text.charCodeAt(at))) at++;
  return at > prefix.length && beginsCommand(text, at) ? at : -1;
}

/** `!!!` and `! ` are chat: a command begins with a letter, a digit or a quote. */
export function beginsCommand(text: string, position: number): boolean {
  return position < text.length && (isWordAt(text, position) || closersOf(text.charCodeAt(position)) !== undefined);
}
