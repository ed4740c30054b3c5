/** For adapters to systems that tell little about who is where. */
import type { Directory } from './platform.js';

/**
 * A directory that knows nobody and nothing: spread it, and write what your system knows over it. What it does not
 * know is refused, and never guessed.
 *
 * @example
 * const directory: Directory = { ...emptyDirectory, bot: () => ({ kind: 'user', id: 'mallet', name: 'Mallet' }) };
 */
export const emptyDirectory: Directory = {
  bot: () => undefined,
  self: () => undefined,
  mentioned: () => undefined,
  member: () => undefined,
  membersNamed: () => [],
  user: () => undefined,
  roles: () => [],
  channels: () => [],
};
