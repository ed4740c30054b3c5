/** The plain form of a notice, for platforms and logs that take text alone. */
import type { Notice } from '../contract/notice.js';

/**
 * Heading, body and details, each on lines of their own.
 *
 * @example
 * plainText({ heading: 'Borrowed', body: 'The drill is yours.', details: ['Due on Friday'] })
 */
export function plainText({ heading, body, details }: Notice): string {
  const lines = heading === undefined ? [] : [heading];
  if (body !== '') lines.push(body);
  if (details !== undefined) lines.push(...details);
  return lines.join('\n');
}
