/** What a platform has of an input besides: an adapter keeps it, and a handler can have it. */
import type { Input } from '../contract/input.js';
import { type Call, callOrigin } from './call.js';

/** Keeps a platform’s own objects beside its inputs. */
export interface Natives<Native extends object> {
  /** The input with the platform's own object, which stays with it: hand in what this gives. */
  keep(input: Input, native: Native): Input;
  /** The object of an input, for what the platform is told of it: `deliver`, `hold`, `removeInput`. */
  of(input: Input): Native | undefined;
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
  // As a field it is in every copy: an answer to what was asked makes an input of two.
  const key = Symbol('native');
  const of = (input: Input | undefined) => (input as { readonly [key]?: Native } | undefined)?.[key];
  return {
    keep: (input, native) => ({ ...input, [key]: native }),
    of,
    nativeOf: (call) => of((call as Partial<typeof call>)[callOrigin]?.input),
  };
}
