/** Walks a line token by token, keeping where each one stands. Linear in the length of the line. */
import { closersOf, isGap, isSpace, isWordAt } from '../base/text.js';

const BACKSLASH = 0x5c;
const BACKTICK = 0x60;
const COMMA = 0x2c;
/** Behind the ASCII ones, the first space. */
const FIRST_UNSEEN = 0xa0;
const FENCE = '```';
/** What these open and nothing closes is a word: 'tis, ’90s. */
const APOSTROPHES = "'‘’";

/**
 * A cursor stands on one token at a time; `next` moves it on. Nothing is cut out of the line
 * before `value` is asked for. Hot path: bench/rows/calls.
 */
export class Cursor {
  /** The token's own place in the line, quotes included. */
  start = 0;
  end = 0;
  quoted = false;
  /** The token opens a quote or a fence that never closes; it reaches to the end of the line. */
  unclosed = false;
  /** Unquoted words part at commas, as the values of a list do: `wren, tobias,pim` is three. */
  partsAtCommas = false;
  #contentStart = 0;
  #contentEnd = 0;
  #escaped = false;
  /** Apostrophes that are known not to be closed further on, so that nothing is looked through twice. */
  #loose = '';

  constructor(
    readonly text: string,
    private position: number,
  ) {}

  /** Moves to the next token; `false` at the end of the line. */
  next(): boolean {
    const text = this.text;
    const start = this.#skipSpace();
    if (start === text.length) return false;
    this.start = start;
    this.#escaped = false;
    this.unclosed = false;
    const unit = text.charCodeAt(start);
    const closers = closersOf(unit);
    if (closers !== undefined && !this.#loose.includes(text[start] as string)) this.#readQuoted(closers);
    else if (unit === BACKTICK && text.startsWith(FENCE, start)) this.#readFenced();
    else this.#readWord();
    this.position = this.end;
    return true;
  }

  /** Whether the token at hand is parted from the next one by a comma. */
  isBeforeComma(): boolean {
    return this.partsAtCommas && this.text.charCodeAt(this.end) === COMMA;
  }

  /** The first code unit of the next token, NaN at the end of the line; stays where it is. */
  peek(): number {
    return this.text.charCodeAt(this.#skipSpace());
  }

  /** Leaves out the next character that is no space. */
  pass(): void {
    this.position = this.#skipSpace() + 1;
  }

  /** Steps back in front of the token at hand, so that `next` gives it again. */
  back(): void {
    this.position = this.start;
  }

  /** Goes on right behind `end`, the end of a token seen before. */
  continueAt(end: number): void {
    this.position = end;
  }

  /** What the token says: without its quotes, escapes resolved. */
  value(): string {
    const content = this.text.slice(this.#contentStart, this.#contentEnd);
    return this.#escaped ? withoutEscapes(content) : content;
  }

  /** Everything from the next token to the last, verbatim; leaves the cursor at the end. */
  rest(): string {
    this.start = this.#skipSpace();
    this.end = trimmedEnd(this.text, this.start);
    this.position = this.text.length;
    this.quoted = false;
    return this.text.slice(this.start, this.end);
  }

  /** What is skipped once is not looked at again. */
  #skipSpace(): number {
    const { text, position: from } = this;
    let position = from;
    while (position < text.length) {
      const unit = text.charCodeAt(position);
      if (!isGap(unit) && !(unit === COMMA && this.partsAtCommas)) break;
      position++;
    }
    if (position > from + 1 || this.partsAtCommas) this.position = position;
    return position;
  }

  #readWord(): void {
    const text = this.text;
    const start = this.start;
    let position = start;
    let mayBeUnseen = false;
    for (; position < text.length; position++) {
      const unit = text.charCodeAt(position);
      // Most characters are letters and digits.
      if (unit > COMMA && unit < FIRST_UNSEEN && unit !== BACKSLASH) continue;
      if (unit === BACKSLASH) {
        this.#escaped = true;
        position++;
      } else if (isSpace(unit) || (unit === COMMA && this.partsAtCommas)) break;
      else if (unit >= FIRST_UNSEEN) mayBeUnseen = true;
    }
    const end = Math.min(position, text.length);
    this.quoted = false;
    this.#contentStart = start;
    this.#contentEnd = mayBeUnseen ? trimmedEnd(text, start, end) : end;
    this.end = end;
  }

  /** A closing sign counts where no letter or digit follows, so that 'don't do it' is one token. */
  #readQuoted(closers: string): void {
    const text = this.text;
    this.quoted = true;
    this.#contentStart = this.start + 1;
    for (let position = this.#contentStart; position < text.length; position++) {
      if (text.charCodeAt(position) === BACKSLASH) {
        this.#escaped = true;
        position++;
      } else if (closers.includes(text[position] as string) && !isWordAt(text, position + 1)) {
        this.#contentEnd = position;
        this.end = position + 1;
        return;
      }
    }
    const opener = text[this.start] as string;
    if (!APOSTROPHES.includes(opener)) {
      this.#toEndUnclosed();
      return;
    }
    this.#loose += opener;
    this.#escaped = false;
    this.#readWord();
  }

  #readFenced(): void {
    const text = this.text;
    const close = text.indexOf(FENCE, this.start + FENCE.length);
    this.quoted = true;
    if (close < 0) {
      this.#contentStart = this.start;
      this.#toEndUnclosed();
      return;
    }
    this.end = close + FENCE.length;
    this.#contentStart = this.start;
    this.#contentEnd = this.end;
  }

  #toEndUnclosed(): void {
    this.unclosed = true;
    this.#contentEnd = this.end = trimmedEnd(this.text, this.start);
  }
}

/** A backslash in front of a letter or digit is itself; in front of a sign it takes the sign's meaning away. */
function withoutEscapes(content: string): string {
  return content.replace(/\\([^\p{L}\p{N}])/gsu, '$1');
}

function trimmedEnd(text: string, start: number, from = text.length): number {
  let end = from;
  while (end > start && isGap(text.charCodeAt(end - 1))) end--;
  return end;
}
