import type { Lease } from './leases.js';
import type { FailedStop, RefusedStop } from './stop.js';

/** A handler that is waited for: its signal, and what is left of it once nobody waits any more. */
export class HandlerWait {
  /** It is not waited for any more. */
  isGivenUp = false;
  /** After it was given up: when it settles all the same. */
  settled: Promise<void> | undefined = undefined;
  /** What is kept of its running limits. */
  lease: Lease | undefined = undefined;
  /** It asked for something and did not get it: what it answers all the same counts no more. */
  unanswered: RefusedStop | FailedStop | undefined = undefined;
  #controller: AbortController | undefined = undefined;

  /** Made when it is first asked for. */
  signal(): AbortSignal {
    this.#controller ??= new AbortController();
    if (this.isGivenUp && !this.#controller.signal.aborted) this.#controller.abort();
    return this.#controller.signal;
  }

  abort(reason: string): void {
    this.#controller?.abort(new Error(reason));
  }
}
