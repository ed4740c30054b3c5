/** Opening the file that a bot keeps its limits, settings and counts in. */
import { existsSync } from 'node:fs';
import type { Clock, Store } from 'taxeon';
import { messageOf, UsageError } from './errors.js';

/** @throws UsageError where it does not open. */
export async function openStore(path: string, clock?: Clock): Promise<Store> {
  try {
    const { fileStore } = await import('taxeon/file-store');
    return fileStore(clock === undefined ? { path } : { path, clock });
  } catch (error) {
    throw new UsageError(`${path} does not open as a store: ${messageOf(error)}`);
  }
}

/** @throws UsageError where there is none, too. */
export function openExistingStore(path: string, what: string): Promise<Store> {
  if (!existsSync(path))
    throw new UsageError(`There is no store at ${path}; name the file that the bot keeps ${what} in.`);
  return openStore(path);
}
