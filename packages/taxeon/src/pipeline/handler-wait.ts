import type { Lease } from './leases.js';

/** A handler that is waited for: its signal, and what is left of it once nobody waits any more. */
export class HandlerWait {
  /** It is not waited for any more. */
  isGivenUp = false;
  /** After it was given up: when it settles all the same. */
  settled: Promise<void> | undefined = undefined;
  /** What is kept of its running limits. */
  lease: Lease | undefined = undefined;
  private controller: AbortController | undefined = undefined;

  /** Made when it is first asked for. */
  signal(): AbortSignal {
    this.controller ??= new AbortController();
    if (this.isGivenUp && !this.controller.signal.aborted) this.controller.abort();
    return this.controller.signal;
  }

  abort(reason: string): void {
    this.controller?.abort(new Error(reason));
  }
}
