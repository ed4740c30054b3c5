/** What a layer tells whoever listens, as data: a spread keeps all of it. */
import type { Actor } from './actors.js';
import type { RefusedCode } from './codes.js';
import type { Input } from './input.js';
import type { Visibility } from './notice.js';
import type { Completed, Delivery, Failed, Invalid, Refused, Waiting } from './outcome.js';
import type { GuildSettings } from './settings.js';
import type { StageName } from './trace.js';

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
  /** How long each stage took that was reached, in milliseconds; put together when it is asked for. */
  readonly stagesMs: () => Readonly<Partial<Record<StageName, number>>>;
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
  /** Somebody has changed what a guild decides. */
  readonly settingsChanged: {
    /** The platform's name. */
    readonly platform: string;
    readonly guild: string;
    /** Who, where it was a call of theirs; `undefined` where the bot's own code did it. */
    readonly by: Actor | undefined;
    /** Which of the settings differ. */
    readonly changed: readonly (keyof GuildSettings)[];
    readonly before: GuildSettings;
    readonly after: GuildSettings;
  };
  /** The layer takes no more inputs and nothing runs any more. */
  readonly closed: { readonly aborted: number };
}

/** How an input ended, before it is told by its status. */
export type EndedEvent = Happening &
  Ended & {
    readonly command: string | undefined;
    readonly alias: string | undefined;
    readonly outcome: Completed | Refused | Invalid | Waiting | Failed;
  };

export type EventName = keyof LayerEvents;

/** Tells an event by the status of the outcome it is about. */
export const endings = ['completed', 'refused', 'invalid', 'waiting', 'failed'] as const satisfies readonly EventName[];
