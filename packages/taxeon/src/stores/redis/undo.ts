/** Undoing what a call may have taken that nobody runs on: once it can come no more, and tried until it is known. */
import type { Calls } from './calls.js';
import { pagesOf } from './scan.js';
import * as scripts from './use-scripts.js';

const AGAIN_MS = 1000;
const AT_ONCE = 100;
/** What is beyond these runs out with its window. */
const MOST_WAITING = 10_000;

interface WaitingUndo {
  readonly names: readonly string[];
  readonly nonce: number;
  /** Until when the call may still come, by the server's clock in microseconds. */
  readonly until: number;
  /** When it has run out by itself, by this machine's steady clock. */
  readonly goneAt: number;
}

export class Undoing {
  private waiting: WaitingUndo[] = [];
  private timer: ReturnType<typeof setTimeout> | undefined = undefined;
  private isOver = false;

  constructor(private readonly calls: Calls) {}

  add(names: readonly string[], nonce: number, until: number, windowMs: number): void {
    this.put({ names, nonce, until, goneAt: performance.now() + windowMs });
  }

  /** What was answered, and so comes no more. Never rejects: where it fails it is tried again. */
  async now(names: readonly string[], nonce: number, windowMs: number): Promise<void> {
    const one = { names, nonce, until: 0, goneAt: performance.now() + windowMs };
    if (!(await this.isUndone(one))) this.put(one);
  }

  stop(): void {
    this.isOver = true;
    clearTimeout(this.timer);
    this.waiting = [];
  }

  private put(one: WaitingUndo): void {
    if (this.isOver || this.waiting.length >= MOST_WAITING) return;
    this.waiting.push(one);
    this.timer ??= setTimeout(() => void this.again(), AGAIN_MS).unref();
  }

  private async again(): Promise<void> {
    const now = performance.now();
    const waiting = this.waiting.filter(({ goneAt }) => goneAt > now);
    this.waiting = [];
    this.timer = undefined;
    // The first tells whether there is a server again.
    const [first, ...others] = waiting;
    if (first === undefined) return;
    const isBack = await this.isUndone(first);
    if (!isBack) this.put(first);
    // A few at a time: those who call now have their turn, too.
    for (const page of pagesOf(others, AT_ONCE)) {
      const undone = await Promise.all(page.map(async (one) => isBack && (await this.isUndone(one))));
      for (const [index, one] of page.entries()) if (undone[index] !== true) this.put(one);
    }
  }

  private async isUndone({ names, nonce, until }: WaitingUndo): Promise<boolean> {
    try {
      const [, early] = await this.calls.run(scripts.undo, names, 0, [String(nonce), String(until)]);
      return early === undefined;
    } catch {
      return false;
    }
  }
}
