/** One post and its answer: whatever is said first is the response, unless nobody waits for it any more. */
import type { HttpPost } from './post.js';

/** A response as data, so that a post that comes again has the same. */
export interface HttpAnswer {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
}

export class HttpExchange {
  /** What the post is answered with. */
  readonly said: Promise<HttpAnswer>;
  private give!: (said: HttpAnswer) => void;
  private isAnswered = false;
  private signal: AbortSignal | undefined;

  constructor(
    readonly post: HttpPost,
    readonly answerTo: string | undefined,
  ) {
    this.said = new Promise((resolve) => {
      this.give = resolve;
    });
  }

  /** Whether the system still waits for the response. */
  get isOpen(): boolean {
    return !this.isAnswered && this.signal?.aborted !== true;
  }

  /** Nobody waits for the response any more once it aborts. Servers make one when it is asked for, which costs. */
  watch(signal: AbortSignal): void {
    this.signal = signal;
  }

  /** The first one counts. */
  answer(said: HttpAnswer): void {
    this.isAnswered = true;
    this.give(said);
  }
}
