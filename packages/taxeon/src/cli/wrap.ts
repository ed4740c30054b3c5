import { stripVTControlCharacters } from 'node:util';

/** Breaks a line at spaces so that no part is wider than `width`, where its words allow. */
export function wrap(line: string, width: number): string[] {
  const lines: string[] = [];
  let current = '';
  for (const word of line.split(' ')) {
    if (current !== '' && shownLength(current) + 1 + shownLength(word) > width) {
      lines.push(current);
      current = word;
    } else current = current === '' ? word : `${current} ${word}`;
  }
  return [...lines, current];
}

/** Colours take no room. */
function shownLength(text: string): number {
  return stripVTControlCharacters(text).length;
}
