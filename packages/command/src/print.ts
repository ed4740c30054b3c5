/** What the command writes: but for its own colours nothing in it moves the cursor, turns a line around or hides anything. */
import colors from 'picocolors';

/** Of picocolors; of what others have put in, none where there are no colours. */
const own = '\\x1b\\[(?:[0124]|22|24|3[1-6]|39)m';
const unsafe = '[\\x00-\\x08\\x0B-\\x1F\\x7F-\\x9F\\u2028\\u2029\\u202A-\\u202E\\u2066-\\u2069]';
const found = new RegExp(colors.isColorSupported ? `${own}|${unsafe}` : unsafe, 'g');

export function safe(text: string): string {
  return text.replace(found, (one) => (one.length > 1 ? one : '\uFFFD'));
}

export function print(text = ''): void {
  console.log(safe(text));
}

/** On the other stream: for people, and not for what reads the output. */
export function complain(text: string): void {
  console.error(safe(text));
}
