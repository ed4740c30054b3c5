/** Who sees what is not a success, and for how long: one table, which a bot may override. */
import { type Duration, durationMs } from '../base/time.js';
import type { Code } from '../contract/codes.js';
import type { Visibility } from '../contract/notice.js';
import { english } from './english.js';

export interface Manner {
  readonly visibleTo: Visibility;
  /** After how long it is taken away again, in milliseconds; never where it is absent. */
  readonly expiresInMs?: number;
  /** The bot itself says who sees it. */
  readonly isOwn?: boolean;
}

/** What a bot may say of its own of one code. */
export interface MannerOptions {
  readonly visibleTo?: Visibility;
  readonly expires?: Duration | 'never';
}

const forCaller: Manner = { visibleTo: 'caller' };
/** True for a moment only: nobody wants to read it later. */
const passing: Manner = { visibleTo: 'caller', expiresInMs: 20_000 };

export const manners: Readonly<Record<Code, Manner>> = {
  ...(Object.fromEntries(Object.keys(english.messages).map((code) => [code, forCaller])) as Record<Code, Manner>),
  'command.unknown': passing,
  'permission.bot': { visibleTo: 'everyone' },
  'cooldown.active': passing,
  'running.full': passing,
  'layer.closing': passing,
};

/** The table with a bot's own entries in it; codes of its own are for the caller unless it says otherwise. */
export function mannersWith(own: Readonly<Record<string, MannerOptions>>): (code: string) => Manner {
  const all = new Map<string, Manner>(Object.entries(manners));
  for (const [code, { visibleTo, expires }] of Object.entries(own)) {
    const { visibleTo: usual, expiresInMs: usually } = all.get(code) ?? forCaller;
    const expiresInMs = expires === undefined ? usually : expires === 'never' ? undefined : durationMs(expires);
    const isOwn = visibleTo !== undefined;
    all.set(code, { visibleTo: visibleTo ?? usual, isOwn, ...(expiresInMs === undefined ? {} : { expiresInMs }) });
  }
  return (code) => all.get(code) ?? forCaller;
}
