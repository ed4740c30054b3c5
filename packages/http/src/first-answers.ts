/** What posts were answered with, for those that come again: a system posts anew what it is not sure of. */
import type { Clock, Store } from 'taxeon';
import { after, type Input, inTime } from 'taxeon/platform';
import type { HttpAnswer } from './exchange.js';

/** At most 33 million characters in all. */
const MOST = 2000;
const LONGEST = 16_384;
/** As long as a layer remembers ids at least. */
const KEPT_MS = 10 * 60_000;
/** How often another process is asked whether it has answered. */
const LOOKED_EVERY_MS = 100;

export interface FirstAnswersOptions {
  readonly name: string;
  readonly clock: Clock;
  readonly store: Store;
  readonly storePatienceMs: number;
  /** Whether other processes take posts of the same system. */
  readonly isShared: boolean;
  failed(error: unknown): void;
}

export class FirstAnswers {
  private readonly known = new Map<string, Promise<HttpAnswer>>();

  constructor(private readonly options: FirstAnswersOptions) {}

  /** What the same post was answered with, or will be, in this process. */
  of(key: string): Promise<HttpAnswer> | undefined {
    return this.known.get(key);
  }

  begin(key: string, said: Promise<HttpAnswer>): void {
    this.known.set(key, said);
    const [oldest] = this.known.keys();
    if (this.known.size > MOST && oldest !== undefined) this.known.delete(oldest);
    void said.then(({ body }) => {
      if (isLongBody(body)) this.known.delete(key);
    });
  }

  /** Tells other processes, once the call has ended. */
  async share(key: string, said: HttpAnswer): Promise<void> {
    const { isShared, clock, store, storePatienceMs, failed } = this.options;
    if (!isShared || isLongBody(said.body)) return;
    try {
      const write = () => store.compareAndSet(this.keyOf(key), 0, JSON.stringify(said), KEPT_MS);
      await inTime(clock, storePatienceMs, write);
    } catch (error) {
      failed(error);
    }
  }

  /** This process has not taken the post. */
  forget(key: string): void {
    this.known.delete(key);
  }

  /** What another process has answered, or answers within a time; nothing where that is not known. */
  async elsewhere(key: string, withinMs: number): Promise<HttpAnswer | undefined> {
    const { isShared, clock, store, storePatienceMs, failed } = this.options;
    // Counted, not timed: a clock may be set back meanwhile.
    const looks = isShared ? Math.ceil(withinMs / LOOKED_EVERY_MS) : 0;
    try {
      for (let look = 0; look < looks; look++) {
        const found: unknown = await inTime(clock, storePatienceMs, () => store.read(this.keyOf(key)));
        if (found !== undefined) return saidOf(found);
        await new Promise<void>((done) => void after(clock, LOOKED_EVERY_MS, done));
      }
    } catch (error) {
      failed(error);
    }
    return undefined;
  }

  private keyOf(key: string): string {
    return `http/answers/${this.options.name}/${key}`;
  }
}

function isLongBody(body: string | null): boolean {
  return body !== null && body.length > LONGEST;
}

/** @throws TypeError where a store gives what was never written */
function saidOf(found: unknown): HttpAnswer {
  const said: Partial<HttpAnswer> = JSON.parse((found as { readonly value: string }).value);
  const { status, headers, body } = said;
  const isRight =
    Number.isInteger(status) && typeof headers === 'object' && (body === null || typeof body === 'string');
  if (!isRight) throw new TypeError('The store gave what is no answer');
  return said as HttpAnswer;
}

/** Which post it is: the same id of another caller, or elsewhere, is another. */
export function postKey({ id, place, caller }: Input): string {
  return JSON.stringify([place.kind === 'console' ? '' : place.channel.id, caller.id, id]);
}
