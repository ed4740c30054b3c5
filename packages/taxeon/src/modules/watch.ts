/** Watching a folder: told once after each burst of changes. */
import { watch } from 'node:fs';

/** An editor writes a file in several steps. */
const QUIET_MS = 60;

/** @returns ends it */
export function watchFolder(
  folder: string,
  changed: () => Promise<void>,
  failed: (error: unknown) => void,
): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  const watcher = watch(folder, { recursive: true }, () => {
    clearTimeout(timer);
    timer = setTimeout(() => void changed(), QUIET_MS);
  });
  watcher.on('error', failed);
  // A bot lives as long as its platforms do.
  watcher.unref();
  return () => {
    clearTimeout(timer);
    watcher.close();
  };
}
