import { stripVTControlCharacters } from 'node:util';

/** Breaks a line at spaces so that no part is wider than `width`, where its words allow. */
export function wrap(line: string, width: number): string[] {
  const lines: string[] = [];
  const indent = /^ */.exec(line)?.[0] ?? '';
  let current = indent;
  for (const word of line.slice(indent.length).split(' ')) {
    if (current !== indent && shownLength(current) + 1 + shownLength(word) > width) {
      lines.push(current);
      current = indent + word;
    } else current = current === indent ? indent + word : `${current} ${word}`;
  }
  return [...lines, current];
}

/** Colours take no room. */
function shownLength(text: string): number {
  return stripVTControlCharacters(text).length;
}
