/** Where the cursor is in a line: the whole words before it, and the one that is being typed. */
import { closersOf } from '../../base/text.js';
import { Cursor } from '../../reading/cursor.js';

/** The word under the cursor. */
export interface Partial {
  /** Without an opening quote. */
  readonly typed: string;
  readonly quoted: boolean;
  /** What a suggestion takes the place of: from where it begins, to where the word ends behind the cursor. */
  readonly start: number;
  readonly end: number;
}

export interface WholeWord {
  readonly value: string;
  readonly start: number;
  readonly end: number;
}

export interface TypedLine {
  readonly words: readonly WholeWord[];
  readonly partial: Partial;
}

/** @param from where the command's name begins */
export function typingAt(text: string, from: number, at: number): TypedLine {
  const head = text.slice(0, at);
  const cursor = new Cursor(head, from);
  const words: WholeWord[] = [];
  while (cursor.next()) {
    const { start, end, quoted, unclosed } = cursor;
    if (end < at && !unclosed) {
      words.push({ value: cursor.value(), start, end });
      continue;
    }
    const isClosed = quoted && !unclosed;
    const typed = quoted && unclosed ? head.slice(start + 1) : cursor.value();
    return { words, partial: { typed, quoted, start, end: isClosed ? end : wordEnd(text, start, at) } };
  }
  return { words, partial: { typed: '', quoted: false, start: at, end: wordEnd(text, at, at) } };
}

/** Where the word goes on behind the cursor; a quote that is not closed yet ends at the cursor. */
function wordEnd(text: string, start: number, at: number): number {
  if (closersOf(text.charCodeAt(start)) !== undefined) return at;
  const rest = /^\S*/.exec(text.slice(at));
  return at + (rest?.[0].length ?? 0);
}

/** A value as it must be typed to be one word. */
export function quotedAsNeeded(value: string, mustQuote = false): string {
  const first = value.charCodeAt(0);
  const isPlain = /^[^\s\\"`]+$/u.test(value) && closersOf(first) === undefined && !/^[-–—]/.test(value);
  return isPlain && !mustQuote ? value : `"${value.replace(/[\\"]/g, '\\$&')}"`;
}
