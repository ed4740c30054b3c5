/** Making a platform, a store or a registrar misbehave on demand, to see that what is built on them holds. */

import { type Clock, systemClock } from 'taxeon';
import { after, PlatformError } from 'taxeon/platform';
/** What a call meets instead of an answer, or besides one. */
export type Fault =
  /** It never answers; `done` says whether it was done all the same. */
  | { readonly kind: 'hang'; readonly done?: boolean }
  /** It is not done; `at: 'once'` throws instead of rejecting. */
  | { readonly kind: 'fail'; readonly error?: unknown; readonly at?: 'once' }
  /** It is done, and then the answer is lost. */
  | { readonly kind: 'lose'; readonly error?: unknown }
  /** It is done twice; the second answer is told. */
  | { readonly kind: 'repeat' }
  /** It is not done, and answers this. */
  | { readonly kind: 'lie'; readonly answer: unknown }
  /** It is done after a while. */
  | { readonly kind: 'delay'; readonly ms: number };

/**
 * Which fault a call has, where it has one.
 *
 * @param call the method's name: `deliver`, `acquire`, `read`; those of a directory as `directory.member`
 * @returns the fault of this call; nothing where it goes well
 */
export type FaultOf = (call: string, args: readonly unknown[]) => Fault | undefined;

const lost = () => new PlatformError('platform.unreachable', 'The connection was lost', { mayHaveArrived: true });

/**
 * Makes the methods of an object meet faults, in place: all code that holds it meets them. Where there is none, a call stays
 * as synchronous as it was.
 *
 * @returns ends that
 *
 * @example
 * injectFaults(platform, (call) => (call === 'edit' ? { kind: 'hang' } : undefined), clock);
 */
export function injectFaults(target: object, fault: FaultOf, clock: Clock = systemClock): () => void {
  const { directory } = target as { readonly directory?: object };
  const ends = [
    patched(target, '', fault, clock),
    directory === undefined ? [] : patched(directory, 'directory.', fault, clock),
  ];
  return () => {
    for (const end of ends.flat()) end();
  };
}

type Method = (...args: unknown[]) => unknown;

function patched(target: object, prefix: string, fault: FaultOf, clock: Clock): (() => void)[] {
  return methodNames(target).map((name) => {
    const methods = target as Record<string, Method>;
    const isOwn = Object.hasOwn(target, name);
    const inner = methods[name] as Method;
    methods[name] = (...args) => meetFault(fault(prefix + name, args), () => inner.apply(target, args), clock);
    return () => {
      if (isOwn) methods[name] = inner;
      else delete methods[name];
    };
  });
}

/** Getters are left as they are, and never called. */
function methodNames(target: object): string[] {
  const names = new Set<string>();
  for (let of = target; of !== Object.prototype && of !== null; of = Object.getPrototypeOf(of)) {
    for (const [name, { value }] of Object.entries(Object.getOwnPropertyDescriptors(of))) {
      if (typeof value === 'function' && name !== 'constructor') names.add(name);
    }
  }
  return [...names];
}

function meetFault(fault: Fault | undefined, act: () => unknown, clock: Clock): unknown {
  switch (fault?.kind) {
    case undefined:
      return act();
    case 'hang':
      // Nobody hears how that went.
      if (fault.done === true) (async () => act())().catch(() => undefined);
      return new Promise(() => undefined);
    case 'fail': {
      const error = fault.error ?? new Error('It failed');
      if (fault.at === 'once') throw error;
      return Promise.reject(error);
    }
    case 'lose':
      return Promise.resolve(act()).then(() => {
        throw fault.error ?? lost();
      });
    case 'repeat':
      return Promise.resolve(act()).then(act);
    case 'lie':
      return fault.answer;
    case 'delay':
      return new Promise((resolve) => void after(clock, fault.ms, () => resolve(undefined))).then(act);
  }
}

/**
 * The same numbers from 0 on, below 1, for the same seed: xorshift (Marsaglia, 2003), 32 bits.
 *
 * @example
 * const random = seeded(7);
 * random() < 0.5;
 */
export function seeded(seed: number): () => number {
  let state = seed | 0 || 1;
  return () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
}

/** Which faults happen, and how often. */
export interface RandomFaults {
  /** From `seeded`. */
  readonly random: () => number;
  /** How many of the calls meet one: 0.1. */
  readonly share: number;
  /** Which faults there are; each is as likely. */
  readonly faults: readonly Fault[];
  /** Whether a call may meet one; all of them by default. */
  among?(call: string): boolean;
}

/**
 * Faults at random, the same ones for the same seed.
 *
 * @example
 * const faults = randomFaults({ random: seeded(7), share: 0.1, faults: [{ kind: 'hang' }] });
 * injectFaults(platform, faults, clock);
 */
export function randomFaults({ random, share, faults, among = () => true }: RandomFaults): FaultOf {
  return (call) => {
    if (!among(call) || random() >= share) return undefined;
    return faults[Math.floor(random() * faults.length)];
  };
}
