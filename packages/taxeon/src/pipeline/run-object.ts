/** One input on its way through the stages, and the call that its handler gets. */
import type { Asking } from '../access/check.js';
import type { Rights } from '../access/decide.js';
import type { CompiledSettings } from '../access/rules.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Catalogue, CompiledCommand } from '../catalogue/compile.js';
import type { Answer, Call, RefusalHook } from '../commands/call.js';
import type { OutagePolicy } from '../commands/cooldowns.js';
import type { ReadingContext } from '../commands/kind.js';
import type { MessageOverrides } from '../contract/codes.js';
import type { Input, Surface } from '../contract/input.js';
import type { Channel, Guild, Place } from '../contract/places.js';
import type { Directory, Platform } from '../contract/platform.js';
import type { Limit, Store } from '../contract/store.js';
import type { Words } from '../contract/words.js';
import type { Expiring, Pacers } from '../delivery/deliver.js';
import { Responder } from '../delivery/responder.js';
import type { Events } from '../observe/events.js';
import type { Log } from '../observe/log.js';
import type { Outages } from '../observe/outages.js';
import type { Recorder } from '../observe/recorder.js';
import type { Timings } from '../observe/timings.js';
import type { UsageCounter } from '../observe/usage.js';
import { helpFor } from '../queries/help/for.js';
import type { Cursor } from '../reading/cursor.js';
import type { Lowered } from '../reading/reading.js';
import type { Language } from '../replies/language.js';
import type { Manner } from '../replies/manners.js';
import type { Damping } from './damping.js';
import type { Taken } from './limits.js';
import { attributionOf, mention, postIn, removeInput, replyNow, tellPerson } from './speaking.js';
import type { Stop } from './stages.js';
import type { Pauses } from './waiting.js';

/** What all runs of a layer share. */
export interface Services {
  /** As it is now; a run keeps to the one it began with. */
  readonly catalogue: Catalogue;
  /** Whether a catalogue before this one had a command or group of that name. */
  wasThere(name: string): boolean;
  readonly onUnknown: UnknownHook | undefined;
  /** What becomes of an answer that no handler gave. */
  stopOf(run: Run, answer: Answer): Stop;
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
  /** The language of a caller, of a guild, or the layer's own, whichever is there first. */
  languageOf(asked: string | undefined, guilds: string | undefined): Language;
  /** The layer's own words for codes. */
  readonly messages: MessageOverrides;
  /** Who sees what is said for a code, and for how long. */
  mannerOf(code: string): Manner;
  readonly pacers: Pacers;
  readonly expiring: Expiring;
  readonly events: Events;
  readonly usage: UsageCounter | undefined;
  /** How long a handler may take whose command does not say, in milliseconds. */
  readonly timeoutMs: number;
  /** Runs whose handler is waited for. */
  readonly running: Set<Run>;
  /** Told at the end of every run. */
  runEnded(): void;
}

/**
 * Called for a name that no command has: what it gives is said, and where it gives nothing the name is unknown.
 *
 * @param rest what stands behind the name, verbatim; empty for a slash command
 */
export type UnknownHook = (name: string, rest: string, call: Call) => MaybePromise<Answer>;

/** What is done instead of running, where only the way is of interest. */
export type Purpose = 'run' | 'explain';

/** For inputs without an event id: enough to tell a run's replies from another's in this process. */
let keysMade = 0;

const noArgs: Readonly<Record<string, unknown>> = Object.freeze({});

/** Hot path: bench/dispatch. One object serves as the stages' state and as the handler's call. */
export class Run implements Call, ReadingContext, Asking {
  readonly now: number;
  readonly catalogue: Catalogue;
  /** The name as it was typed. */
  typed = '';
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
  /** How many messages the run has handed over. */
  handed = 0;
  /** Whom the handler has mentioned, by id. */
  mentioned: Set<string> | undefined = undefined;
  /** Made when first needed: most runs say one thing at once. */
  madeResponder: Responder | undefined = undefined;
  /** Ends the watch over a run that does not end at once. */
  unwatch: (() => void) | undefined = undefined;
  pauses: Pauses | undefined = undefined;
  /** Its handler is not waited for any more. */
  isGivenUp = false;
  /** `onRefusal` has said something in place of the catalogue's notice. */
  hookSpoke = false;
  /** Nobody listens to the handler any more. */
  isOver = false;
  /** Stops waiting for the handler. */
  giveUp: (() => void) | undefined = undefined;
  /** After the handler was given up: when it settles all the same. */
  handlerSettled: Promise<void> | undefined = undefined;
  /** When each stage ended; only where somebody listens. */
  timings: Timings | undefined = undefined;
  private madeKey: string | undefined = undefined;
  private controller: AbortController | undefined = undefined;
  private chosenLanguage: Language | undefined = undefined;

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
    this.catalogue = services.catalogue;
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

  /** What a command is written with where the input came from. */
  get prefix(): string {
    return this.surface === 'slash' ? '/' : (this.input.text?.slice(0, this.nameAt) ?? '');
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

  get language(): Language {
    this.chosenLanguage ??= this.services.languageOf(this.input.locale, this.settings.settings.locale);
    return this.chosenLanguage;
  }

  get locale(): string {
    return this.language.locale;
  }

  /** The language that was asked for, be it one that the layer has no messages in. */
  get asked(): string {
    return this.input.locale ?? this.settings.settings.locale ?? this.locale;
  }

  get words(): Words {
    return this.language.words;
  }

  /** Under which the platform recognises a second attempt at the same reply, where it does. */
  get key(): string {
    const { id } = this.input;
    if (id !== undefined || this.platform?.capabilities.idempotencyKeys !== true) return id ?? '';
    this.madeKey ??= `without-id-${++keysMade}`;
    return this.madeKey;
  }

  get responder(): Responder | undefined {
    if (this.madeResponder === undefined && this.platform !== undefined) {
      this.madeResponder = new Responder(this, this.platform);
      this.madeResponder.isClosed = this.isOver;
    }
    return this.madeResponder;
  }

  /** Hot path: made only when it is read. */
  get signal(): AbortSignal {
    this.controller ??= new AbortController();
    if (this.isGivenUp && !this.controller.signal.aborted) this.controller.abort();
    return this.controller.signal;
  }

  abort(reference: string): void {
    this.controller?.abort(new Error(`Nobody waits for ${this.command} any more (${reference})`));
  }

  get attribution(): string {
    return attributionOf(this);
  }

  // Functions of their own, so that a handler may take them out of its call.

  get reply(): Call['reply'] {
    return (sayable) => replyNow(this, sayable);
  }

  get progress(): Call['progress'] {
    return (fraction, doing = '') => this.responder?.progress(fraction, doing);
  }

  get tell(): Call['tell'] {
    return (person, sayable) => tellPerson(this, person, sayable);
  }

  get post(): Call['post'] {
    return (channel, sayable) => postIn(this, channel, sayable);
  }

  get removeInput(): Call['removeInput'] {
    return () => removeInput(this);
  }

  get helpOn(): Call['helpOn'] {
    return (name, page) => helpFor(this, name, page);
  }

  get mention(): Call['mention'] {
    return (person) => mention(this, person);
  }
}
