/** Whether what was said has arrived: a server answers in order, so it answers a ping that was sent behind it. */
import { PlatformError } from '../../contract/platform.js';

export interface Receipts {
  /** Resolves once the server has taken what was sent to `target`, and rejects where it refuses it or is lost. */
  sent(target: string): Promise<void>;
  /** The server has answered a ping. */
  answered(token: string): void;
  /** The server refuses what was sent to a channel or a nick. */
  refused(target: string, error: PlatformError): void;
  lost(error: PlatformError): void;
}

interface Receipt {
  readonly target: string;
  /** The number of the ping that is sent behind it. */
  readonly ping: number;
  done(): void;
  failed(error: PlatformError): void;
}

/** Between two pings: a server counts lines. */
const PING_EVERY_MS = 1000;
/** More are not waited for by anybody. */
const MOST_OPEN = 1000;

export function createReceipts(ping: (token: string) => void, fold: (name: string) => string): Receipts {
  let open: Receipt[] = [];
  let pings = 0;
  let isOut = false;
  let lastAt = Number.NEGATIVE_INFINITY;
  let timer: ReturnType<typeof setTimeout> | undefined;

  function ask(): void {
    if (isOut || timer !== undefined || open.length === 0) return;
    const waitMs = Math.max(0, lastAt + PING_EVERY_MS - performance.now());
    timer = setTimeout(() => {
      timer = undefined;
      isOut = true;
      lastAt = performance.now();
      pings += 1;
      ping(tokenOf(pings));
    }, waitMs);
  }

  return {
    sent(target) {
      if (open.length >= MOST_OPEN) {
        return Promise.reject(new PlatformError('platform.slowed', 'Too much waits for IRC', { mayHaveArrived: true }));
      }
      return new Promise((done, failed) => {
        open.push({ target: fold(target), ping: pings + 1, done, failed });
        ask();
      });
    },
    answered(token) {
      if (!isOut || token !== tokenOf(pings)) return;
      isOut = false;
      const [taken, further] = [open.filter(({ ping }) => ping <= pings), open.filter(({ ping }) => ping > pings)];
      open = further;
      for (const { done } of taken) done();
      ask();
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

function tokenOf(ping: number): string {
  return `said-${ping}`;
}
