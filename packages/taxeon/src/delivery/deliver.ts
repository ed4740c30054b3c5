/** Handing a reply to a platform: in its turn, in parts where it is long, again where that is safe, and elsewhere where the input is gone. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { after } from '../base/time.js';
import type { DeliveryCode } from '../contract/codes.js';
import type { Notice, Reply } from '../contract/notice.js';
import type { Delivery } from '../contract/outcome.js';
import { type Delivered, type Platform, PlatformError } from '../contract/platform.js';
import type { Run, Services } from '../pipeline/run-object.js';
import { plainText } from '../replies/notice.js';
import { Pacer } from './pace.js';
import { splitNotice } from './split.js';

/** How a reply was handed over, with what finds its first message again. */
export interface Handed {
  readonly delivery: Delivery;
  readonly delivered: Delivered | undefined;
}

type How = Extract<Delivery, { delivered: true }>['as'];

/** Shared, since most deliveries are alike. */
const handed: Readonly<Record<How, Delivery>> = {
  reply: { delivered: true, as: 'reply' },
  post: { delivered: true, as: 'post' },
  tell: { delivered: true, as: 'tell' },
};

const asReply: Handed = { delivery: handed.reply, delivered: undefined };

/**
 * Hands over a reply to the run's input, and goes on with how that went; never throws. Synchronous for as long
 * as the platform is. Hot path: bench/dispatch.
 */
export function handReply<T>(run: Run, platform: Platform, reply: Reply, then: (handed: Handed) => T): MaybePromise<T> {
  const { capabilities } = platform;
  const { longestReply } = capabilities;
  if (longestReply !== undefined && isLong(platform, reply.notice, longestReply)) {
    return handParts(run, platform, reply, longestReply).then(then);
  }
  if (capabilities.pace !== undefined || mustBeRemoved(platform, reply)) {
    return handOne(run, platform, reply).then(then);
  }
  let delivering: MaybePromise<Delivered | void>;
  try {
    delivering = platform.deliver(reply, run.input, nextKey(run));
  } catch (error) {
    return handAgain(run, platform, reply, error).then(then);
  }
  if (!isThenable(delivering)) return then(handedAs(delivering));
  return delivering.then(
    (delivered) => then(handedAs(delivered)),
    (error) => handAgain(run, platform, reply, error).then(then),
  );
}

function handedAs(delivered: Delivered | void): Handed {
  return delivered === undefined ? asReply : { delivery: handed.reply, delivered };
}

/** The plain text is measured without making it: most are short. */
function isLong(platform: Platform, notice: Notice, longest: number): boolean {
  const { heading = '', body, details = [] } = notice;
  const units = heading.length + body.length + details.reduce((sum, one) => sum + one.length + 1, 2);
  return units * 2 > longest && measureOf(platform)(notice) > longest;
}

function measureOf(platform: Platform): (notice: Notice) => number {
  return platform.measure === undefined
    ? (notice) => plainText(notice).length
    : (notice) => platform.measure?.(notice) ?? 0;
}

async function handParts(run: Run, platform: Platform, reply: Reply, longest: number): Promise<Handed> {
  const parts = splitNotice(reply.notice, longest, measureOf(platform), run.language.phrases.cut());
  let first: Handed | undefined;
  for (const notice of parts) {
    const next = await handOne(run, platform, { ...reply, notice });
    first ??= next;
    // Of a text whose beginning did not arrive, the rest would puzzle.
    if (!next.delivery.delivered) break;
  }
  return first as Handed;
}

async function handOne(run: Run, platform: Platform, reply: Reply): Promise<Handed> {
  await takeTurn(run, platform, channelOf(run));
  const key = nextKey(run);
  try {
    const delivered = await platform.deliver(reply, run.input, key);
    removeLater(run, platform, reply, delivered);
    return handedAs(delivered);
  } catch (error) {
    return handAgain(run, platform, reply, error, key);
  }
}

/** After a first attempt that failed: again with growing pauses where that is safe, or elsewhere. */
async function handAgain(
  run: Run,
  platform: Platform,
  reply: Reply,
  error: unknown,
  key = keyOf(run),
): Promise<Handed> {
  try {
    const delivered = await again(run.services, platform, error, () => platform.deliver(reply, run.input, key));
    removeLater(run, platform, reply, delivered);
    return handedAs(delivered);
  } catch (last) {
    if (codeOf(last) !== 'platform.gone') return undelivered(run, platform, last);
    return handElsewhere(run, platform, reply, last);
  }
}

/** The input is gone: what was for everybody is posted, what was for the caller is told to them alone. */
async function handElsewhere(run: Run, platform: Platform, reply: Reply, gone: unknown): Promise<Handed> {
  const { caller } = run.input;
  const { channel } = run;
  try {
    if (reply.visibleTo === 'everyone' && platform.post !== undefined && channel !== undefined) {
      await platform.post(channel, reply);
      return { delivery: handed.post, delivered: undefined };
    }
    if (platform.tell !== undefined && (caller.kind === 'member' || caller.kind === 'user')) {
      await platform.tell(caller, reply);
      return { delivery: handed.tell, delivered: undefined };
    }
  } catch (error) {
    return undelivered(run, platform, error);
  }
  return undelivered(run, platform, gone);
}

function undelivered({ services, found }: Run, platform: Platform, error: unknown): Handed {
  const code = codeOf(error);
  services.log.error({ code, command: found?.name, platform: platform.name, error }, 'A reply was not delivered');
  return { delivery: { delivered: false, code }, delivered: undefined };
}

export function codeOf(error: unknown): DeliveryCode {
  return error instanceof PlatformError ? error.code : 'platform.failed';
}

const ATTEMPTS = 5;
const FIRST_PAUSE_MS = 500;
/** A platform that asks for more patience than this is not waited for. */
const LONGEST_PAUSE_MS = 60_000;

/**
 * Tries again what has failed with `error`, for as long as that cannot do it twice.
 *
 * @throws whatever the last attempt threw
 */
export async function again<T>(
  services: Services,
  platform: Platform,
  error: unknown,
  attempt: () => MaybePromise<T>,
): Promise<T> {
  let last = error;
  for (let tried = 1; tried < ATTEMPTS && mayTryAgain(platform, last); tried++) {
    const hint = (last as PlatformError).retryAfterMs ?? 0;
    if (hint > LONGEST_PAUSE_MS) break;
    await pause(services, Math.max(hint, FIRST_PAUSE_MS * 2 ** (tried - 1)));
    try {
      return await attempt();
    } catch (next) {
      last = next;
    }
  }
  throw last;
}

function mayTryAgain({ capabilities }: Platform, error: unknown): boolean {
  if (!(error instanceof PlatformError)) return capabilities.idempotencyKeys === true;
  if (error.code === 'platform.forbidden' || error.code === 'platform.gone') return false;
  if (error.mayHaveArrived || error.code === 'platform.failed') return capabilities.idempotencyKeys === true;
  return true;
}

function pause({ clock }: Services, ms: number): Promise<void> {
  return new Promise((done) => void after(clock, ms, done));
}

/** Waits for a turn in a channel; the time does not count against the handler's. */
export async function takeTurn(run: Run, platform: Platform, channel: string): Promise<void> {
  const { pace } = platform.capabilities;
  if (pace === undefined) return;
  const turn = run.services.pacers.of(platform, pace).turn(channel, run);
  if (turn === undefined) return;
  run.pauses?.begin();
  await turn;
  run.pauses?.end();
}

function channelOf({ channel }: Run): string {
  return channel?.id ?? '';
}

/** The same for every attempt at a message, another for the next. */
function nextKey(run: Run): string {
  run.handed += 1;
  return keyOf(run);
}

function keyOf({ handed, key }: Run): string {
  return handed === 1 ? key : `${key}.${handed}`;
}

/** Where the platform does not take expiring messages away by itself. */
export function removeLater(run: Run, platform: Platform, reply: Reply, delivered: Delivered | void): void {
  if (delivered === undefined || !mustBeRemoved(platform, reply)) return;
  const { services, input } = run;
  services.expiring.later(reply.expiresInMs as number, async () => {
    try {
      await platform.remove?.(delivered, input);
    } catch (error) {
      services.log.warn({ code: codeOf(error), platform: platform.name, error }, 'An expired message was not removed');
    }
  });
}

function mustBeRemoved({ capabilities, remove }: Platform, { expiresInMs }: Reply): boolean {
  return expiresInMs !== undefined && capabilities.expires !== true && remove !== undefined;
}

/** One pacer a platform, which all layers' runs on it share. */
export class Pacers {
  private readonly all = new WeakMap<Platform, Pacer>();

  constructor(private readonly clock: Services['clock']) {}

  of(platform: Platform, pace: ConstructorParameters<typeof Pacer>[0]): Pacer {
    let pacer = this.all.get(platform);
    if (pacer === undefined) {
      pacer = new Pacer(pace, this.clock);
      this.all.set(platform, pacer);
    }
    return pacer;
  }
}

/** What is to be done later, unless the layer closes before: then it is done at once. */
export class Expiring {
  private readonly waiting = new Map<() => Promise<void>, () => void>();

  constructor(private readonly clock: Services['clock']) {}

  later(ms: number, remove: () => Promise<void>): void {
    const cancel = after(this.clock, ms, () => {
      this.waiting.delete(remove);
      void remove();
    });
    this.waiting.set(remove, cancel);
  }

  async all(): Promise<void> {
    const waiting = [...this.waiting];
    this.waiting.clear();
    await Promise.all(
      waiting.map(([remove, cancel]) => {
        cancel();
        return remove();
      }),
    );
  }
}
