/** One input on its way through the stages, and the call that its handler gets. */
import type { Asking } from '../access/check.js';
import type { Rights } from '../access/decide.js';
import type { CompiledSettings } from '../access/rules.js';
import type { Clock } from '../base/time.js';
import type { Catalogue, CompiledCommand } from '../catalogue/compile.js';
import type { Call, RefusalHook } from '../commands/call.js';
import type { OutagePolicy } from '../commands/cooldowns.js';
import type { ReadingContext } from '../commands/kind.js';
import type { Input, Surface } from '../contract/input.js';
import type { Channel, Guild, Place } from '../contract/places.js';
import type { Directory, Platform } from '../contract/platform.js';
import type { Limit, Store } from '../limits/store.js';
import type { Cursor } from '../reading/cursor.js';
import type { Lowered } from '../reading/reading.js';
import type { Damping } from './damping.js';
import type { Taken } from './limiting.js';
import type { Log } from './log.js';
import type { Outages } from './outages.js';
import type { Recorder } from './recorder.js';

/** What all runs of a layer share. */
export interface Services {
  readonly catalogue: Catalogue;
  readonly rights: Rights;
  readonly store: Store;
  readonly clock: Clock;
  readonly log: Log;
  readonly reference: () => string;
  timeZoneOf(place: Place): string;
  /** What the guild of a place has decided, as it stands now. */
  settingsOf(place: Place): CompiledSettings;
  settingsOfGuild(guildId: string): CompiledSettings;
  readonly onRefusal: RefusalHook | undefined;
  /** What is done while the store does not answer, and who is told of it. */
  readonly outagePolicy: OutagePolicy;
  readonly outages: Outages;
  readonly storePatienceMs: number;
  readonly damping: Damping | undefined;
  /** How long a function of the developer's may take to settle, in milliseconds; handlers aside. */
  readonly patienceMs: number;
  /** A command's limits as they are counted on a platform. */
  limitsOf(command: CompiledCommand, platform: string): readonly Limit[];
}

/** What is done instead of running, where only the way is of interest. */
export type Purpose = 'run' | 'explain';

const noArgs: Readonly<Record<string, unknown>> = Object.freeze({});

/** Hot path: bench/dispatch. One object serves as the stages' state and as the handler's call. */
export class Run implements Call, ReadingContext, Asking {
  readonly now: number;
  /** Set by `resolve`; no later stage runs without it. */
  found: CompiledCommand | undefined = undefined;
  args: Readonly<Record<string, unknown>> = noArgs;
  hasArgs = false;
  /** Arguments that were lowered to their maximum, of which the caller is told. */
  lowered: readonly Lowered[] | undefined = undefined;
  private seenSettings: CompiledSettings | undefined = undefined;
  /** The uses that the call has taken. */
  taken: Taken | undefined = undefined;
  /** Which cooldown of whom refused the call. */
  deniedKey = '';
  /** Made when first needed; a slash command's options need none. */
  cursor: Cursor | undefined = undefined;

  constructor(
    readonly services: Services,
    readonly input: Input,
    readonly platform: Platform | undefined,
    /** Where in the text the command's name begins, behind the prefix. */
    readonly nameAt: number,
    readonly purpose: Purpose,
    readonly recorder: Recorder | undefined,
  ) {
    this.now = services.clock.now();
  }

  get caller(): never {
    return this.input.caller as never;
  }

  get guild(): Guild | undefined {
    const { place } = this.input;
    return place.kind === 'guild' ? place.guild : undefined;
  }

  get channel(): Channel | undefined {
    const { place } = this.input;
    return place.kind === 'console' ? undefined : place.channel;
  }

  get place(): Place {
    return this.input.place;
  }

  get surface(): Surface {
    return this.input.surface;
  }

  get command(): string {
    return this.found?.name ?? '';
  }

  /** As they stood when they were first asked for: a run keeps to them. */
  get settings(): CompiledSettings {
    this.seenSettings ??= this.services.settingsOf(this.input.place);
    return this.seenSettings;
  }

  get timeZone(): string {
    return this.services.timeZoneOf(this.input.place);
  }

  get inputId(): string | undefined {
    return this.input.id;
  }

  get directory(): Directory | undefined {
    return this.platform?.directory;
  }

  get rights(): Rights {
    return this.services.rights;
  }

  get locale(): string | undefined {
    return this.input.locale;
  }
}
