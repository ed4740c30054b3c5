/** What a platform has of an input besides: an adapter keeps it, and a handler can have it. */
import type { Input } from '../contract/input.js';
import { type Call, callOrigin } from './call.js';

/** Keeps a platform’s own objects beside its inputs. */
export interface Natives<Native extends object> {
  /** Keeps a platform's own object for as long as its input is in use; gives the input back. */
  keep(input: Input, native: Native): Input;
  /** The object of a call, also through a spread; `undefined` where it came by another way. */
  nativeOf(call: Pick<Call, typeof callOrigin>): Native | undefined;
}

/**
 * For adapters: `nativeOf` is what one exports.
 *
 * @example
 * import { type ChatMessage, inputOf } from './system.js';
 *
 * const { keep, nativeOf } = keepNatives<ChatMessage>();
 * const hear = (message: ChatMessage) => layer.handle(keep(inputOf(message), message), platform);
 */
export function keepNatives<Native extends object>(): Natives<Native> {
  const kept = new WeakMap<Input, Native>();
  return {
    keep(input, native) {
      kept.set(input, native);
      return input;
    },
    nativeOf: (call) => kept.get((call as Partial<typeof call>)[callOrigin]?.input as Input),
  };
}
