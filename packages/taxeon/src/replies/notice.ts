/** The plain form of a notice, for platforms and logs that take text alone. */
import type { Notice } from '../contract/notice.js';

/**
 * Heading, body and details, each on lines of their own, and a bar where an amount is told. Readable without
 * colour and in every language.
 *
 * @example
 * plainText({ heading: 'Borrowed', body: 'The drill is yours.', details: ['Due on Friday'] })
 */
export function plainText({ heading, body, details, amount }: Notice): string {
  const lines = heading === undefined ? [] : [heading];
  if (amount !== undefined) lines.push(amountBar(amount));
  if (body !== '') lines.push(body);
  if (details !== undefined) lines.push(...details);
  return lines.join('\n');
}

const BAR = 10;

/** `■■■■□□□□□□ 4/10`, or `40 %` of a hundred. */
function amountBar({ done, asked }: NonNullable<Notice['amount']>): string {
  const part = asked <= 0 ? 1 : Math.min(1, Math.max(0, done / asked));
  const filled = Math.floor(part * BAR);
  const told = asked === 100 ? `${done} %` : `${done}/${asked}`;
  return `${'■'.repeat(filled)}${'□'.repeat(BAR - filled)} ${told}`;
}
