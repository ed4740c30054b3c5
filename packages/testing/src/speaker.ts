/** Saying one line after the other to a bot whose handlers may ask: the answer is said while its call waits. */
import type { LayerEvents, Outcome } from 'taxeon';
import type { Input } from 'taxeon/platform';
import type { Rehearsal } from './config.js';
import type { Exchange } from './stand-in/stand-in.js';

type AskedEvent = LayerEvents['asked'];

/** A call that is under way. */
class CallUnderWay {
  private told: AskedEvent | undefined;
  private wake: ((asked: AskedEvent) => void) | undefined;

  constructor(private readonly sent: Promise<Exchange>) {}

  asks(asked: AskedEvent): void {
    if (this.wake === undefined) this.told = asked;
    else this.wake(asked);
  }

  /** What comes first: its end, or a question of its handler's. */
  next(): Promise<Exchange | AskedEvent> {
    const asked = new Promise<AskedEvent>((resolve) => {
      if (this.told === undefined) this.wake = resolve;
      else resolve(this.told);
    });
    return Promise.race([this.sent, asked]).finally(() => {
      this.told = undefined;
      this.wake = undefined;
    });
  }
}

/** Says one line after the other, also to handlers that ask. */
export interface Speaker {
  /**
   * Says it, and waits for what comes of it: until its call ends, or its handler asks. With an answer the exchange is
   * that of the call that goes on, and its outcome the call's.
   */
  say(input: Input): Promise<Exchange>;
  /** Listens no more to what is asked. */
  close(): void;
}

/**
 * Makes a speaker for a bot.
 *
 * @param rehearsal whose platform serves its layer already
 *
 * @example
 * const speaker = speakerOf(rehearsal);
 * const { outcome } = await speaker.say(input);
 * speaker.close();
 */
export function speakerOf({ layer, platform }: Rehearsal): Speaker {
  /** By the ids of their inputs. */
  const calls = new Map<string, CallUnderWay>();
  /** Those that wait for an answer, by whom they ask where. */
  const waiting = new Map<string, CallUnderWay>();
  const forget = layer.on('asked', (asked) => calls.get(asked.input.id ?? '')?.asks(asked));

  function begin(input: Input): CallUnderWay {
    const { id = '' } = input;
    const sent = platform.send(input);
    const call = new CallUnderWay(sent);
    calls.set(id, call);
    void sent.finally(() => calls.get(id) === call && calls.delete(id)).catch(() => undefined);
    return call;
  }

  return {
    async say(input) {
      const from = platform.posts.length;
      const where = speakerKey(input);
      const asking = waiting.get(where);
      const own = begin(input);
      const first = await own.next();
      const answers = asking !== undefined && 'outcome' in first && isAnswer(first.outcome) ? asking : undefined;
      const came = answers === undefined ? first : await answers.next();
      if (!('outcome' in came)) waiting.set(where, answers ?? own);
      else if (answers === undefined) return came;
      else waiting.delete(where);
      const outcome = 'outcome' in came ? came.outcome : waitingFor(came);
      return { input, outcome, posts: platform.posts.slice(from) };
    },
    close: forget,
  };
}

function isAnswer(outcome: Outcome): boolean {
  return outcome.status === 'ignored' && outcome.because === 'answer';
}

function speakerKey({ caller, place, surface }: Input): string {
  return JSON.stringify([caller.id, surface === 'console' || place.kind === 'console' ? 'console' : place.channel.id]);
}

function waitingFor({ command, question, until }: AskedEvent): Outcome {
  return {
    status: 'waiting',
    asks: { for: 'answer', question },
    until,
    command,
    args: undefined,
    reply: undefined,
    delivery: undefined,
    heldBack: undefined,
    trace: undefined,
  };
}
