/** `group`: several commands under one name, which they share much of. */
import type { Manners, MessageOverrides } from '../contract/codes.js';
import type { Surface } from '../contract/input.js';
import type { Words as LocalWords } from '../contract/words.js';
import type { ArgMap, WhenMissing } from './arg.js';
import type { AroundHook, RefusalHook, Whereabouts } from './call.js';
import type { AllLocalized, Command, Localized, Scope } from './command.js';
import type { Cooldowns, RunningLimits } from './cooldowns.js';
import type { ListOfRequirements, RequirementBuilder } from './requirements.js';
import type { AnyWords, Vocabulary } from './words.js';

/** What a group asks is asked of the caller and the bot: it has no arguments whose names it could give. */
export interface GroupBuilder<Words extends AnyWords = AnyWords>
  extends RequirementBuilder<Readonly<Record<never, never>>, Words> {}

/** What a developer writes. */
export interface GroupDeclaration<Words extends AnyWords = AnyWords> {
  /** What people type in front of the commands' own names: letters, digits, `-` and `_`, at most 40. */
  readonly name: string;
  /** Other names for the group, in front of any of its commands. */
  readonly aliases?: readonly string[];
  /** What its commands are for, in one line. */
  readonly description: string;
  /** Stable across a rename; the name, behind that of the group around it, by default. */
  readonly id?: string;
  /** Where its commands are registered, where they do not say. */
  readonly scope?: Scope<Words>;
  /**
   * What people see of it in other languages, in help and where slash commands are registered: by locale, or a function
   * of the words of each of the layer's languages.
   */
  readonly localized?: AllLocalized | ((words: LocalWords) => Localized);
  /** The heading under which help lists it; its commands too, where they say none of their own. */
  readonly section?: string;
  /** The module that its commands are in, by which a guild can switch them off; `loadModules` says it. */
  readonly module?: string;
  /** Where its commands may be called, where they do not say. */
  readonly in?: Whereabouts;
  /** How its commands are reached, where they do not say. */
  readonly surfaces?: readonly Exclude<Surface, 'program'>[];
  /** Who may run any of its commands; each may ask for more. */
  readonly requires?: (builder: GroupBuilder<Words>) => ListOfRequirements;
  /** How often its commands may be used, all counted together. */
  readonly cooldowns?: Cooldowns<ArgMap, Words>;
  /** How many calls of its commands may run at once, all counted together. */
  readonly running?: RunningLimits;
  /** Whether its commands ask for what is missing or wrong, where they do not say. */
  readonly whenMissing?: WhenMissing;
  /** Own words for codes, where a command has none. */
  readonly messages?: MessageOverrides;
  /** Who sees what is said for a code, and for how long, where a command does not say. */
  readonly manners?: Manners;
  /** Runs around each of its commands' handlers, inside the layer's own. */
  readonly around?: AroundHook;
  /** Called for every call of its commands that does not complete, where the command has none of its own. */
  readonly onRefusal?: RefusalHook;
  /** Its commands, or groups of them, as deep as it makes sense; a platform may take fewer levels as slash commands. */
  readonly commands: readonly CommandOrGroup[];
}

/** A declared group. */
export interface Group {
  readonly group: GroupDeclaration;
  /** To which words it is held, where it was made by a `vocabulary`. */
  readonly words?: Vocabulary;
}

/** What a layer is made of. */
export type CommandOrGroup = Command | Group;

/**
 * Declares a group. Nothing is checked here: `createCommandLayer` tells all problems at once.
 *
 * @example
 * const overdue = group({
 *   name: 'overdue',
 *   description: 'Tools that are late',
 *   requires: ({ caller }) => [caller.can('remind')],
 *   cooldowns: { user: '10 in 1m' },
 *   commands: [list, remind],
 * });
 */
export function group(declaration: GroupDeclaration): Group {
  return { group: declaration };
}

export function isGroup(one: CommandOrGroup): one is Group {
  return 'group' in one;
}
