/** What a platform gives where slash commands must be registered with it. */
import { bears, mark } from '../base/mark.js';
import type { MaybePromise } from '../base/thenable.js';

/** Where a command is registered: everywhere, or in one guild by id. */
export type RegistrationScope = 'everywhere' | { readonly guild: string };

/** A JSON Schema (2020-12) of one argument, with what this manifest adds to it. */
export interface ArgumentSchema {
  readonly type: 'string' | 'integer' | 'number' | 'boolean' | 'array';
  readonly title?: string;
  readonly description?: string;
  readonly minimum?: number;
  readonly maximum?: number;
  readonly minLength?: number;
  readonly maxLength?: number;
  readonly minItems?: number;
  readonly maxItems?: number;
  readonly enum?: readonly string[];
  readonly items?: ArgumentSchema;
  /** The kind of the argument, where the type does not tell: `member`, `duration` … */
  readonly 'x-kind'?: string;
  /** Whether the bot answers with suggestions while it is typed. */
  readonly 'x-completes'?: true;
  /** Descriptions in other languages, by locale. */
  readonly 'x-descriptions'?: Readonly<Record<string, string>>;
}

/** The arguments of a registered command, as JSON Schema 2020-12. */
export interface ArgumentsSchema {
  readonly type: 'object';
  readonly properties: Readonly<Record<string, ArgumentSchema>>;
  readonly required: readonly string[];
  readonly additionalProperties: false;
  /** The arguments in the order in which they are typed. */
  readonly 'x-order': readonly string[];
}

/** What people see of one command or group where slash commands are registered. */
export interface RegisteredForm {
  /** Stable across a rename. */
  readonly id: string;
  readonly name: string;
  readonly description: string;
  /** By locale. */
  readonly names?: Readonly<Record<string, string>>;
  readonly descriptions?: Readonly<Record<string, string>>;
  /** Permissions that people need at first to see it; guilds decide from there. */
  readonly permissions?: readonly string[];
  readonly where: 'guild' | 'direct' | 'anywhere';
  readonly arguments?: ArgumentsSchema;
  /** The commands of a group. */
  readonly commands?: readonly RegisteredForm[];
}

/** A command that a platform holds. */
export interface HeldCommand {
  /** The platform's own. */
  readonly id: string;
  /** Changes whenever the command does, so that nobody overwrites what they have not seen. */
  readonly version: string;
  /** Who registered it, as they said. */
  readonly by: string;
  readonly form: RegisteredForm;
  /** When people see it, in milliseconds since 1970-01-01 UTC. */
  readonly visibleAt: number;
}

/** What the platform takes at most; absent where there is no limit. */
export interface RegistrarLimits {
  readonly commandsPerScope?: number;
  readonly nameLength?: number;
  readonly descriptionLength?: number;
  readonly argumentsPerCommand?: number;
  readonly choicesPerArgument?: number;
  readonly commandsPerGroup?: number;
  /** How many groups may stand in one another. */
  readonly groupLevels?: number;
}

/**
 * Where slash commands are held. All of it may fail with a `PlatformError`: `platform.forbidden` where the
 * authorisation for it is missing, `platform.gone` for an unknown guild or command, `platform.slowed` with how
 * long to wait, `platform.unreachable`, and `platform.failed`.
 */
export interface Registrar {
  /** The platform's name, as the store's keys have it. */
  readonly name: string;
  readonly limits: RegistrarLimits;
  /** How long it takes until people see a change, in milliseconds. */
  readonly delayMs: { readonly everywhere: number; readonly guild: number };
  read(scope: RegistrationScope): MaybePromise<readonly HeldCommand[]>;
  /** Every scope in which something is registered by that name, where the platform can tell. */
  scopes?(by: string): MaybePromise<readonly RegistrationScope[]>;
  /** @throws Conflict where the scope holds a command of that name. */
  create(scope: RegistrationScope, form: RegisteredForm, by: string): MaybePromise<void>;
  /** @throws Conflict where it is no longer of that version. */
  update(scope: RegistrationScope, held: HeldCommand, form: RegisteredForm): MaybePromise<void>;
  /** @throws Conflict where it is no longer of that version. */
  remove(scope: RegistrationScope, held: HeldCommand): MaybePromise<void>;
}

/** Another process changed what was to be changed. */
export class Conflict extends Error {
  override readonly name = 'Conflict';
  readonly [mark] = 'conflict';
}

/**
 * Whether a registrar has said that a command was changed meanwhile; also where another copy of the library said it.
 *
 * @example
 * const why = (error: unknown) => (isConflict(error) ? 'it was changed meanwhile' : String(error));
 */
export function isConflict(error: unknown): error is Conflict {
  return bears(error, 'conflict');
}

/**
 * `everywhere`, or `guild oddmere`: for keys, lists and sentences.
 *
 * @example
 * scopeName({ guild: 'oddmere' }); // 'guild oddmere'
 */
export function scopeName(scope: RegistrationScope): string {
  return scope === 'everywhere' ? 'everywhere' : `guild ${scope.guild}`;
}
