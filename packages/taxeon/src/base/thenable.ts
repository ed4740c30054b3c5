/** Staying synchronous until something is a promise: awaiting every step costs several times more. */
import { after, type Clock } from './time.js';

export type MaybePromise<T> = T | PromiseLike<T>;

export function isThenable<T>(value: MaybePromise<T>): value is PromiseLike<T> {
  return typeof value === 'object' && value !== null && typeof (value as { then?: unknown }).then === 'function';
}

/** Nothing came in time; it may have happened all the same. */
export class TooLate extends Error {
  override readonly name = 'TooLate';
}

const atHand = Promise.resolve();

/**
 * A wait that ends with `then` unless `end` is called before. Most of what is waited for is there already: a timer is
 * made only for what is not, once what is at hand has been told. Hot path: `npm run bench -- --only text`.
 */
export class Deadline {
  private isOver = false;
  private cancel: (() => void) | undefined = undefined;

  constructor(
    private readonly clock: Clock,
    private readonly withinMs: number,
    private readonly then: () => void,
  ) {
    const startedAt = clock.now();
    void atHand.then(() => {
      if (!this.isOver) this.begin(startedAt);
    });
  }

  end(): void {
    this.isOver = true;
    this.cancel?.();
  }

  private begin(startedAt: number): void {
    const passedMs = Math.max(0, this.clock.now() - startedAt);
    if (passedMs >= this.withinMs) this.then();
    else this.cancel = after(this.clock, this.withinMs - passedMs, this.then);
  }
}

/** The same promise, rejected with `TooLate` where nothing comes of it in time. */
export function patiently<T>(clock: Clock, promise: PromiseLike<T>, withinMs: number): Promise<T> {
  return new Promise((resolve, reject) => waitFor(clock, promise, withinMs, resolve, reject));
}

/** Calls one of both, with `TooLate` as the error where nothing comes in time. */
export function waitFor<T>(
  clock: Clock,
  promise: PromiseLike<T>,
  withinMs: number,
  done: (value: T) => void,
  failed: (error: unknown) => void,
): void {
  let deadline: Deadline | undefined;
  let isOver = false;
  /** Whether it was still waited for. */
  const end = () => {
    if (isOver) return false;
    isOver = true;
    deadline?.end();
    return true;
  };
  promise.then(
    (value) => {
      if (end()) done(value);
    },
    (error) => {
      if (end()) failed(error);
    },
  );
  if (isOver) return;
  deadline = new Deadline(clock, withinMs, () => {
    if (end()) failed(new TooLate(`Nothing came within ${withinMs} ms`));
  });
}

/** Rejects what a function throws, too. */
export async function promised<T>(what: () => MaybePromise<T>): Promise<T> {
  return what();
}
