/**
 * What the library makes and takes back bears a mark. By it, and not by its class, every copy of the library in a
 * program knows it.
 */
export const mark: unique symbol = Symbol.for('taxeon.made');

export type MadeThing =
  | 'misread'
  | 'capped'
  | 'read-as'
  | 'apart'
  | 'refusal'
  | 'requirement'
  | 'blame'
  | 'platform-error'
  | 'conflict'
  | 'settings-error'
  | 'unread-settings';

/** What kind of made thing a value is; `undefined` for all else. Hot path: bench/rows/calls. */
export function markOf(value: unknown): MadeThing | undefined {
  return typeof value === 'object' && value !== null ? (value as { readonly [mark]?: MadeThing })[mark] : undefined;
}

/** Hot path: bench/rows/calls. */
export function bears(value: unknown, what: MadeThing): boolean {
  return typeof value === 'object' && value !== null && (value as { readonly [mark]?: unknown })[mark] === what;
}
