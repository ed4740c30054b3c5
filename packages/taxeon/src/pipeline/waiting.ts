/** Waiting for a slow call: holding its reply, showing that it is worked on, and giving up on its handler. */
import { after } from '../base/time.js';
import type { Answer } from '../commands/call.js';
import type { Run } from './run-object.js';
import type { Stop } from './stages.js';

/** A held reply must be asked for well before the platform gives the invocation up. */
const HOLD_AT = 0.5;
/** Whoever is answered within this needs no sign of typing. */
const TYPING_AFTER_MS = 700;

/** Watches a call that did not end at once; gives what ends the watch. */
export function watch(run: Run): (() => void) | undefined {
  const { platform, surface } = run;
  if (platform === undefined) return undefined;
  if (surface === 'slash') return watchDeadline(run);
  return platform.typing === undefined || surface !== 'text' ? undefined : showTyping(run);
}

function watchDeadline(run: Run): (() => void) | undefined {
  const { platform, services, input } = run;
  const { replyDeadlineMs } = platform?.capabilities ?? {};
  if (platform?.hold === undefined || replyDeadlineMs === undefined) return undefined;
  const left = input.at + replyDeadlineMs * HOLD_AT - services.clock.now();
  return after(services.clock, Math.max(0, left), () => void run.responder?.hold());
}

function showTyping(run: Run): () => void {
  const { platform, services, input } = run;
  const shownMs = platform?.capabilities.typingMs;
  let cancel = after(services.clock, TYPING_AFTER_MS, show);
  function show(): void {
    try {
      // A sign of typing is worth no trouble.
      void Promise.resolve(platform?.typing?.(input)).catch(() => undefined);
    } catch {
      return;
    }
    if (shownMs !== undefined) cancel = after(services.clock, shownMs * 0.9, show);
  }
  return () => cancel();
}

/** Time that a run has spent waiting for the platform's pacing. */
export class Pauses {
  private since: number | undefined = undefined;
  private waiting = 0;
  private total = 0;

  constructor(private readonly now: () => number) {}

  begin(): void {
    if (this.waiting === 0) this.since = this.now();
    this.waiting += 1;
  }

  end(): void {
    this.waiting -= 1;
    if (this.waiting > 0 || this.since === undefined) return;
    this.total += this.now() - this.since;
    this.since = undefined;
  }

  totalMs(): number {
    return this.total + (this.since === undefined ? 0 : this.now() - this.since);
  }
}

/** The part of the running limits that is kept after a timeout, should the handler go on. */
export const GRACE_MS = 30_000;

/**
 * A handler's answer, or that it did not come in time.
 *
 * @param settled makes a stop of the answer
 */
export function inTime(
  run: Run,
  answer: PromiseLike<Answer | void>,
  settled: { answered(answer: Answer | void): Stop; threw(error: unknown): Stop },
): Promise<Stop> {
  const { services } = run;
  const timeoutMs = run.found?.timeoutMs ?? services.timeoutMs;
  run.pauses = new Pauses(() => services.clock.now());
  return new Promise((resolve) => {
    let cancel = after(services.clock, timeoutMs, check);
    let credited = 0;
    function check(): void {
      const paused = (run.pauses?.totalMs() ?? 0) - credited;
      if (paused > 0) {
        credited += paused;
        cancel = after(services.clock, paused, check);
        return;
      }
      giveUp(timeoutMs);
    }
    function giveUp(afterMs: number | undefined): void {
      cancel();
      services.running.delete(run);
      if (run.isGivenUp) return;
      run.isGivenUp = true;
      run.handlerSettled = Promise.resolve(answer).then(
        () => undefined,
        () => undefined,
      );
      const reference = services.reference();
      services.log.warn(
        { reference, command: run.command, input: run.inputId, afterMs },
        afterMs === undefined ? 'A handler was ended, since the layer closes' : 'A handler did not finish in time',
      );
      resolve({ status: 'failed', code: 'handler.timeout', parameters: { afterMs, reference } });
      run.abort(reference);
    }
    run.giveUp = () => giveUp(undefined);
    services.running.add(run);
    const end = (stop: () => Stop) => {
      cancel();
      services.running.delete(run);
      if (!run.isGivenUp) resolve(stop());
    };
    answer.then(
      (given) => end(() => settled.answered(given)),
      (error) => end(() => settled.threw(error)),
    );
  });
}
