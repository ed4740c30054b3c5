/** One post and its answer: whatever is said first is the response, unless nobody waits for it any more. */
import type { Post } from './post.js';

/** A response as data, so that a post that comes again has the same. */
export interface Said {
  readonly status: number;
  readonly headers: Readonly<Record<string, string>>;
  readonly body: string | null;
}

export class Exchange {
  /** What the post is answered with. */
  readonly said: Promise<Said>;
  private give!: (said: Said) => void;
  private isAnswered = false;

  constructor(
    readonly post: Post,
    readonly answerTo: string | undefined,
    private readonly signal: AbortSignal,
  ) {
    this.said = new Promise((resolve) => {
      this.give = resolve;
    });
  }

  /** Whether the system still waits for the response. */
  get isOpen(): boolean {
    return !this.isAnswered && !this.signal.aborted;
  }

  /** The first one counts. */
  answer(said: Said): void {
    this.isAnswered = true;
    this.give(said);
  }
}
