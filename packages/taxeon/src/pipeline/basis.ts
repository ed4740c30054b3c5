/** What all stages may rely on, and what changes while the layer lives. What a stage needs besides, it says itself. */
import type { NameTable } from '../base/name-table.js';
import type { Clock } from '../base/time.js';
import type { Catalogue } from '../catalogue/catalogue.js';
import type { Log } from '../contract/log.js';
import type { Events } from '../observe/events.js';

export interface Basis {
  readonly clock: Clock;
  /** The same, but it never goes back: for what must not stand still when the other is set back. */
  readonly steady: Clock;
  readonly log: Log;
  /** For a failure, which the log has under it. */
  reference(): string;
  /** How long a function of the developer's may take to settle, in milliseconds; handlers aside. */
  readonly patienceMs: number;
  /** The layer's own, where it says one. */
  readonly locale: string | undefined;
  readonly events: Events;
}

export interface Current {
  /** As it is now; an input keeps to the one it began with. */
  catalogue: Catalogue;
  /** Names of commands and groups that catalogues before this one had: people may still see them somewhere. */
  readonly formerNames: NameTable<true>;
  /** The layer takes no more inputs. */
  isClosing: boolean;
  /** How many inputs are on their way, and who is told once there are none. */
  readonly open: { inputs: number; none: (() => void) | undefined };
}
