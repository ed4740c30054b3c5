/** A catalogue: the compiled, conflict-free set of commands. */
import type { Guarded } from '../access/check.js';
import type { CompiledRequirement } from '../access/compile.js';
import type { NameTable } from '../base/name-table.js';
import type { WhenMissing } from '../commands/arg.js';
import type { RefusalHook, Whereabouts } from '../commands/call.js';
import type { AnyDeclaration, Command, Localized } from '../commands/command.js';
import type { Manners, MessageOverrides } from '../contract/codes.js';
import type { Surface } from '../contract/input.js';
import type { Audience } from '../contract/notice.js';
import type { Slots } from '../reading/slots.js';
import type { Counted } from './compile-limits.js';

/** A command as the stages use it. Nothing in it changes after it was made. */
export interface CompiledCommand extends Guarded {
  readonly kind: 'command';
  /** As it is typed, with its groups in front: `overdue remind`. */
  readonly name: string;
  /** Its own name, without its groups. */
  readonly word: string;
  readonly id: string;
  /** Its own id, those of its groups from the inside out, and its section's. */
  readonly ids: readonly string[];
  /** From the outside in. */
  readonly groups: readonly CompiledGroup[];
  readonly section: string | undefined;
  readonly scope: CompiledScope;
  readonly localized: Readonly<Record<string, Localized>> | undefined;
  readonly description: string;
  readonly aliases: readonly string[];
  readonly in: Whereabouts;
  readonly surfaces: ReadonlySet<Surface>;
  readonly slots: Slots;
  readonly requires: readonly CompiledRequirement[];
  readonly counted: readonly Counted[];
  /** No limit has an exemption, a key or a cost of its own: all is known at once. */
  readonly countsPlainly: boolean;
  /** Some limit has something to give back when the call ends. */
  readonly endsLimits: boolean;
  /** `<who> <pence> [tool]` */
  readonly notation: string;
  /** As they are declared; without them, one is made where it is read. */
  readonly examples: readonly string[] | undefined;
  readonly visibleTo: Audience;
  /** How long the handler may take, in milliseconds; the layer's own where it is absent. */
  readonly timeoutMs: number | undefined;
  /** The command's own words for codes, and its groups'. */
  readonly messages: MessageOverrides | undefined;
  /** Its own and its groups', from the outside in. */
  readonly manners: readonly Manners[];
  readonly whenMissing: WhenMissing | undefined;
  readonly confirm: AnyDeclaration['confirm'];
  readonly together: AnyDeclaration['together'];
  readonly onRefusal: RefusalHook | undefined;
  /** Whose hooks run around the handler, from the outside in. */
  readonly aroundBy: readonly string[];
  readonly run: AnyDeclaration['run'];
  /** The group that is called alone, where this stands for one. */
  readonly overviewOf: CompiledGroup | undefined;
}

export interface CompiledGroup {
  readonly kind: 'group';
  readonly name: string;
  readonly word: string;
  readonly id: string;
  /** Its own id, those of the groups around it, and its section's. */
  readonly ids: readonly string[];
  readonly section: string | undefined;
  readonly localized: Readonly<Record<string, Localized>> | undefined;
  readonly description: string;
  readonly aliases: readonly string[];
  readonly members: readonly Entry[];
  /** By name and alias, folded. */
  readonly names: NameTable<Entry>;
  /** All commands in it, at any depth. */
  readonly commands: readonly CompiledCommand[];
  /** What is run where the group is called alone. */
  readonly overview: CompiledCommand;
}

export type Entry = CompiledCommand | CompiledGroup;

export interface Catalogue {
  /** All commands, those of groups among them. */
  readonly commands: readonly CompiledCommand[];
  readonly groups: readonly CompiledGroup[];
  /** Commands and groups as they were given. */
  readonly entries: readonly Entry[];
  /** Ids of sections and modules. */
  readonly outer: readonly string[];
  /** Those outside of groups, by one word. */
  readonly names: NameTable<Entry>;
  /** Where people find help. */
  readonly help: CompiledCommand | undefined;
  /** The command or group of a whole name, its groups in front: `overdue remind`. */
  find(name: string): Entry | undefined;
  /** The compiled form of a declared command, where it is in this catalogue. */
  of(declared: Command): CompiledCommand | undefined;
}

/** Where a command is registered, and may be called. */
export interface CompiledScope {
  readonly isEverywhere: boolean;
  /** The guilds for which it is registered by itself, as keys such as `irc/#oddmere`. */
  readonly guilds: ReadonlySet<string>;
}
