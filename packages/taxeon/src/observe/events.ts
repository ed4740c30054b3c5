/** What a layer tells whoever listens. A listener that throws harms nothing. */
import { isThenable } from '../base/thenable.js';
import type { RefusedCode } from '../contract/codes.js';
import type { Input } from '../contract/input.js';
import type { Visibility } from '../contract/notice.js';
import type { Completed, Delivery, Failed, Invalid, Refused, Waiting } from '../contract/outcome.js';
import type { StageName } from '../contract/trace.js';
import type { Log } from './log.js';

/** What all events of one input share. */
export interface Happening {
  readonly input: Input;
  /** The platform's name; `undefined` where the input came without one. */
  readonly platform: string | undefined;
}

/** The command that an event is about. */
interface OfCommand extends Happening {
  /** The base name. */
  readonly command: string;
  /** The alias that was typed, where it was one. */
  readonly alias: string | undefined;
}

interface Ended {
  readonly tookMs: number;
  /** How long each stage took that was reached, in milliseconds. */
  readonly stagesMs: Readonly<Partial<Record<StageName, number>>>;
}

/** Codes of refusals that come before a command is found. */
export type CommandlessCode = 'command.unknown' | 'command.changed' | 'layer.closing';

type Commandless = Happening &
  Ended & {
    readonly command: undefined;
    readonly alias: undefined;
    readonly outcome: Extract<Refused, { code: CommandlessCode }>;
  };

type RefusedOfCommand = OfCommand &
  Ended & {
    readonly outcome:
      | Extract<Refused, { code: Exclude<RefusedCode, CommandlessCode> }>
      | Extract<Refused, { by: 'handler' }>;
  };

export interface LayerEvents {
  /** A platform is connected and inputs may come. */
  readonly ready: { readonly platform: string };
  /** An input that is for the bot: ordinary chat and repeated deliveries are not told. */
  readonly received: Happening;
  /** A handler is about to run. */
  readonly started: OfCommand & { readonly args: Readonly<Record<string, unknown>> };
  /** Without a command where `onUnknown` has answered. */
  readonly completed: (OfCommand | (Happening & { readonly command: undefined; readonly alias: undefined })) &
    Ended & { readonly outcome: Completed };
  readonly refused: Commandless | RefusedOfCommand;
  readonly invalid: OfCommand & Ended & { readonly outcome: Invalid };
  readonly waiting: OfCommand & Ended & { readonly outcome: Waiting };
  readonly failed: Happening &
    Ended & {
      /** `undefined` where something failed before the command was found. */
      readonly command: string | undefined;
      readonly alias: string | undefined;
      readonly outcome: Failed;
    };
  /** Something was said, or was to be: `text` is its plain form. */
  readonly replied: Happening & {
    readonly command: string | undefined;
    readonly text: string;
    readonly visibleTo: Visibility;
    readonly delivery: Delivery | undefined;
  };
  /** The layer takes no more inputs and nothing runs any more. */
  readonly closed: { readonly aborted: number };
}

export type EventName = keyof LayerEvents;

/** Tells an event by the status of the outcome it is about. */
export const endings = ['completed', 'refused', 'invalid', 'waiting', 'failed'] as const satisfies readonly EventName[];

type Listener = (event: never) => unknown;

export class Events {
  private readonly listeners = new Map<EventName, Set<Listener>>();
  /** Whether somebody wants to know how an input ended, so that its stages are timed. */
  timesEndings = false;
  /** Looked at before an event is made: hot path, bench/dispatch. */
  readonly hearing: Record<EventName, boolean> = {
    ready: false,
    received: false,
    started: false,
    completed: false,
    refused: false,
    invalid: false,
    waiting: false,
    failed: false,
    replied: false,
    closed: false,
  };

  constructor(private readonly log: Log) {}

  on<Name extends EventName>(name: Name, listener: (event: LayerEvents[Name]) => unknown): () => void {
    const all = this.listeners.get(name) ?? new Set();
    // A function of its own, so that the same listener may be added twice.
    const own: Listener = (event) => listener(event);
    this.listeners.set(name, all.add(own));
    this.count(name);
    return () => {
      all.delete(own);
      this.count(name);
    };
  }

  tell<Name extends EventName>(name: Name, event: LayerEvents[Name]): void {
    for (const listener of this.listeners.get(name) ?? []) {
      try {
        const told: unknown = listener(event as never);
        if (isThenable(told)) told.then(undefined, (error) => this.failed(name, error));
      } catch (error) {
        this.failed(name, error);
      }
    }
  }

  private failed(event: EventName, error: unknown): void {
    this.log.error({ event, error }, 'A listener failed');
  }

  private count(name: EventName): void {
    this.hearing[name] = (this.listeners.get(name)?.size ?? 0) > 0;
    this.timesEndings = endings.some((one) => this.hearing[one]);
  }
}
