/** Three listeners that fire for every call, and read what they are told. */
interface Told {
  readonly command?: string | undefined;
  readonly tookMs?: number;
}

/** The same on every side. */
export function listen(
  on: (name: 'started' | 'completed' | 'ended', listener: (event: Told) => void) => unknown,
  heard: { count: number },
): void {
  on('started', ({ command }) => {
    if (command === 'fine') heard.count += 1;
  });
  on('completed', ({ command, tookMs = 0 }) => {
    if (command === 'fine' && tookMs >= 0) heard.count += 1;
  });
  on('ended', ({ tookMs = 0 }) => {
    if (tookMs >= 0) heard.count += 1;
  });
}
