/** What a layer tells listeners, as data: a spread keeps all of it. */
import type { Actor, Person, User } from './actors.js';
import type { RefusedCode } from './codes.js';
import type { Input } from './input.js';
import type { Visibility } from './notice.js';
import type { Completed, Delivery, Failed, Invalid, Refused, Status, Waiting } from './outcome.js';
import type { Channel } from './places.js';
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

interface EndedTimes {
  readonly tookMs: number;
  /** How long each stage took that was reached, in milliseconds; put together when it is asked for. */
  readonly stagesMs: () => Readonly<Partial<Record<StageName, number>>>;
}

/** Codes of refusals that come before a command is found. */
export type CommandlessCode =
  | 'command.unknown'
  | 'command.changed'
  | 'layer.closing'
  | 'store.unavailable'
  | 'answer.none';

type Commandless = Happening &
  EndedTimes & {
    readonly command: undefined;
    readonly alias: undefined;
    readonly outcome: Extract<Refused, { code: CommandlessCode }>;
  };

type RefusedOfCommand = OfCommand &
  EndedTimes & {
    readonly outcome:
      | Extract<Refused, { code: Exclude<RefusedCode, 'command.unknown' | 'command.changed'> }>
      | Extract<Refused, { by: 'handler' }>;
  };

/** `answer` ends an input, `message` is what a handler says before, `edit` changes either, and `tell` and `post` are said elsewhere. */
export type SaidAs = 'answer' | 'message' | 'progress' | 'edit' | 'tell' | 'post';

/** All events of a layer, by name, with what each tells. */
export interface LayerEvents {
  /** A platform is connected and inputs may come. `bot` is who the bot is there, where the platform knows. */
  readonly connected: { readonly platform: string; readonly bot: User | undefined };
  /** An input that is for the bot: ordinary chat and repeated deliveries are not told. */
  readonly received: Happening;
  /** A handler asks, and waits for an answer until then: also where an answer that was given does not read. */
  readonly asked: Happening & { readonly command: string; readonly question: string; readonly until: number };
  /** A handler is about to run. */
  readonly started: OfCommand & { readonly args: Readonly<Record<string, unknown>> };
  /** Without a command where `onUnknown` has answered. */
  readonly completed: (OfCommand | (Happening & { readonly command: undefined; readonly alias: undefined })) &
    EndedTimes & { readonly outcome: Completed };
  readonly refused: Commandless | RefusedOfCommand;
  readonly invalid: OfCommand & EndedTimes & { readonly outcome: Invalid };
  readonly waiting: OfCommand & EndedTimes & { readonly outcome: Waiting };
  readonly failed: Happening &
    EndedTimes & {
      /** `undefined` where something failed before the command was found. */
      readonly command: string | undefined;
      readonly alias: string | undefined;
      readonly outcome: Failed;
      /** What was thrown; `undefined` after a timeout. */
      readonly error: unknown;
    };
  /** Every input that was no chat, however it ended: one listener sees all. */
  readonly ended: EndedEvent;
  /** Something was said, or was to be: `text` is its plain form. */
  readonly replied: Happening & {
    readonly command: string | undefined;
    readonly as: SaidAs;
    /** Who was told something in private, where it is not the answer to the caller. */
    readonly person: Person | undefined;
    /** Where something was posted. */
    readonly channel: Channel | undefined;
    readonly text: string;
    readonly visibleTo: Visibility;
    readonly delivery: Delivery | undefined;
  };
  /** A person has changed what a guild decides. */
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

/** How an input ended. */
export type EndedEvent = Happening &
  EndedTimes & {
    /** The base name; `undefined` where no command was found. */
    readonly command: string | undefined;
    readonly alias: string | undefined;
    readonly status: Exclude<Status, 'ignored'>;
    /** `undefined` where it completed. */
    readonly code: string | undefined;
    readonly outcome: Completed | Refused | Invalid | Waiting | Failed;
    readonly error: unknown;
  };

/** The name of an event of a layer. */
export type EventName = keyof LayerEvents;

/** Tells an event by the status of the outcome it is about. */
export const endings = ['completed', 'refused', 'invalid', 'waiting', 'failed'] as const satisfies readonly EventName[];
