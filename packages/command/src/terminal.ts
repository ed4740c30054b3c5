/** The terminal that is written to, and the room that text takes in it. */
import { stripVTControlCharacters } from 'node:util';
import { eastAsianWidth } from 'get-east-asian-width';

const NARROWEST = 50;
const WIDEST = 200;
/** Where it is no terminal that is written to: the same each time. */
const ELSEWHERE = 100;

/** In columns, from 50 to 200. */
export function terminalWidth(): number {
  // Some terminals do not know their width, and say 0.
  return Math.min(WIDEST, Math.max(NARROWEST, process.stdout.columns || ELSEWHERE));
}

/** In columns: colours and accents take none, most characters of East Asia and emoji take two. */
export function widthOf(text: string): number {
  if (/^[ -~]*$/.test(text)) return text.length;
  let width = 0;
  for (const char of stripVTControlCharacters(text)) width += columnsOf(char);
  return width;
}

function columnsOf(char: string): number {
  return /[\p{M}\p{Cf}]/u.test(char) ? 0 : eastAsianWidth(char.codePointAt(0) ?? 0);
}

export function padEnd(text: string, width: number): string {
  return text + ' '.repeat(Math.max(0, width - widthOf(text)));
}

export function padStart(text: string, width: number): string {
  return ' '.repeat(Math.max(0, width - widthOf(text))) + text;
}

/** Breaks a line at spaces, and between characters that stand without them, so that no part is wider than `width`. */
export function wrap(line: string, width: number): string[] {
  const indent = /^ */.exec(line)?.[0] ?? '';
  return wrapped(line, indent, (word) => (isSpaced(word) ? [word] : broken(word, width - indent.length)), width);
}

/** The same, and words that are too long are broken, too. */
export function wrapAll(line: string, width: number): string[] {
  return wrapped(line, '', (word) => broken(word, width), width);
}

function wrapped(line: string, indent: string, parts: (word: string) => readonly string[], width: number): string[] {
  const lines: string[] = [];
  let current = indent;
  for (const word of line.slice(indent.length).split(' ')) {
    const isLong = widthOf(word) > width - indent.length;
    for (const [index, part] of (isLong ? parts(word) : [word]).entries()) {
      const glue = current === indent || index > 0 ? '' : ' ';
      const isFull = current !== indent && widthOf(current) + widthOf(glue + part) > width;
      if (isFull) lines.push(current);
      current = isFull ? indent + part : current + glue + part;
    }
  }
  return [...lines, current];
}

/** Whether its language parts words by spaces: what is written otherwise may be broken anywhere. */
function isSpaced(word: string): boolean {
  return widthOf(word) === stripVTControlCharacters(word).length;
}

function broken(word: string, width: number): string[] {
  const parts = [''];
  for (const char of word) {
    const last = parts.length - 1;
    if (parts[last] !== '' && widthOf(parts[last] + char) > width) parts.push(char);
    else parts[last] += char;
  }
  return parts;
}
