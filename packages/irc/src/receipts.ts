/**
 * Whether what was said has arrived. A server that can sends it back; another answers in order, so it answers a ping that
 * was sent behind it.
 */

import { PlatformError } from 'taxeon/platform';
export interface Receipts {
  /** Resolves once the server has taken the lines that were sent to `target`, and rejects where it refuses them or is lost. */
  sent(target: string, lines: number): Promise<void>;
  /** The server has sent a line back. */
  echoed(target: string): void;
  /** The server has answered a ping. */
  answered(token: string): void;
  /** The server refuses what was sent to a channel or a nick. */
  refused(target: string, error: PlatformError): void;
  lost(error: PlatformError): void;
}

interface Receipt {
  readonly target: string;
  /** How many lines did not come back yet. */
  lines: number;
  /** The number of the ping that is sent behind it. */
  readonly ping: number;
  done(): void;
  failed(error: PlatformError): void;
}

/** Between two pings: a server counts lines. */
const PING_EVERY_MS = 1000;
/** More are not waited for by anybody. */
const MOST_OPEN = 1000;

/**
 * @param echoes whether the server sends back what was said
 */
export function createReceipts(
  ping: (token: string) => void,
  fold: (name: string) => string,
  echoes: () => boolean,
): Receipts {
  let open: Receipt[] = [];
  let pings = 0;
  let isOut = false;
  let lastAt = Number.NEGATIVE_INFINITY;
  let timer: ReturnType<typeof setTimeout> | undefined;

  function ask(): void {
    if (echoes() || isOut || timer !== undefined || open.length === 0) return;
    const waitMs = Math.max(0, lastAt + PING_EVERY_MS - performance.now());
    timer = setTimeout(() => {
      timer = undefined;
      isOut = true;
      lastAt = performance.now();
      pings += 1;
      ping(pingToken(pings));
    }, waitMs);
  }

  return {
    sent(target, lines) {
      if (lines === 0) return Promise.resolve();
      if (open.length >= MOST_OPEN) {
        return Promise.reject(new PlatformError('platform.slowed', 'Too much waits for IRC', { mayHaveArrived: true }));
      }
      return new Promise((done, failed) => {
        open.push({ target: fold(target), lines, ping: pings + 1, done, failed });
        ask();
      });
    },
    answered(token) {
      if (!isOut || token !== pingToken(pings)) return;
      isOut = false;
      const [taken, further] = [open.filter(({ ping }) => ping <= pings), open.filter(({ ping }) => ping > pings)];
      open = further;
      for (const { done } of taken) done();
      ask();
    },
    echoed(target) {
      const found = open.find((one) => one.target === fold(target));
      if (found === undefined || --found.lines > 0) return;
      open = open.filter((one) => one !== found);
      found.done();
    },
    refused(target, error) {
      const found = open.findIndex((one) => one.target === fold(target));
      if (found >= 0) open.splice(found, 1)[0]?.failed(error);
    },
    lost(error) {
      clearTimeout(timer);
      for (const { failed } of open.splice(0)) failed(error);
    },
  };
}

function pingToken(ping: number): string {
  return `said-${ping}`;
}
