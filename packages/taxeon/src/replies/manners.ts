/** Who sees what is not a success, and for how long: one table, which a bot may override. */
import { durationMs } from '../base/time.js';
import type { Code, Manners } from '../contract/codes.js';
import type { Visibility } from '../contract/notice.js';
import { messageTexts } from './messages.js';

/** Who sees what is said for a code, and for how long. */
export interface Manner {
  readonly visibleTo: Visibility;
  /** After how long it is taken away again, in milliseconds; never where it is absent. */
  readonly expiresInMs?: number | undefined;
  /** The bot itself says who sees it. */
  readonly isOwn?: boolean | undefined;
  /** Whether usage stands under it; yes where it is absent. */
  readonly usage?: boolean | undefined;
}

const forCaller: Manner = { visibleTo: 'caller' };
/** True for a moment only: nobody wants to read it later. */
const passing: Manner = { visibleTo: 'caller', expiresInMs: 20_000 };

/** Who sees what by default, by code, and for how long. */
export const manners: Readonly<Record<Code, Manner>> = {
  ...(Object.fromEntries(Object.keys(messageTexts).map((code) => [code, forCaller])) as Record<Code, Manner>),
  'command.unknown': passing,
  'permission.bot': { visibleTo: 'everyone' },
  'cooldown.active': passing,
  'running.full': passing,
  'layer.closing': passing,
};

/** The table's, with the bot's own, from the outside in. Codes of its own are for the caller unless it says otherwise. */
export function mannerOf(code: string, owns: readonly (Manners | undefined)[]): Manner {
  let manner = manners[code as Code] ?? forCaller;
  for (const own of owns) {
    if (!own) continue;
    const { expires, ...said } = { ...own[`${code.split('.', 1)}.*`], ...own[code] };
    manner = { ...manner, ...said };
    if (said.visibleTo) manner = { ...manner, isOwn: true };
    // `never` is no length of time.
    if (expires) manner = { ...manner, expiresInMs: durationMs(expires) };
  }
  return manner;
}
