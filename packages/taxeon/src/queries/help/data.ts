/** Help as data: what there is, and all about one of it. */

import { foundOrMade } from '../../base/bounded-map.js';
import type { NameTable } from '../../base/name-table.js';
import type { MaybePromise } from '../../base/thenable.js';
import type { Catalogue, CompiledCommand, CompiledGroup, Entry } from '../../catalogue/catalogue.js';
import { isEntryShown } from '../../catalogue/entries.js';
import { slotNotation } from '../../catalogue/usage.js';
import type { Requirement } from '../../commands/requirements.js';
import type { Expectation } from '../../contract/expectation.js';
import { nearShown } from '../../pipeline/near.js';
import {
  descriptionOf,
  type EntryLine,
  entryLine,
  type Listing,
  linesOf,
  localizedOf,
} from '../../pipeline/overview.js';
import type { Slot } from '../../reading/slots.js';
import type { LimitTold } from '../../replies/help.js';

/** A command or group in a list of help. */
export type HelpLine = EntryLine;

/** Commands under one heading. */
export interface HelpSection {
  /** `undefined` for what stands under no heading. */
  readonly heading: string | undefined;
  readonly lines: readonly HelpLine[];
}

/** An argument as help shows it. */
export interface HelpArgument {
  readonly name: string;
  /** `<who>`, `[note…]`, `--tentative`. */
  readonly written: string;
  readonly description: string | undefined;
  readonly expected: Expectation;
  readonly isRequired: boolean;
}

/** Help on one command. */
export interface CommandHelp {
  readonly kind: 'command';
  readonly name: string;
  readonly description: string;
  readonly aliases: readonly string[];
  /** `!fine <who> <pence> [tool]` */
  readonly usage: string;
  readonly args: readonly HelpArgument[];
  /** Written out, with the prefix. */
  readonly examples: readonly string[];
  readonly requires: readonly Requirement[];
  /** Permissions that the bot itself would need here, and does not have. */
  readonly lacks: readonly string[];
  readonly limits: readonly LimitTold[];
}

/** Help on one group: its commands that the reader may run. */
export interface GroupHelp {
  readonly kind: 'group';
  readonly name: string;
  readonly description: string;
  readonly aliases: readonly string[];
  readonly lines: readonly HelpLine[];
}

/** A page of all commands that the reader may run. */
export interface HelpIndex {
  readonly kind: 'index';
  readonly sections: readonly HelpSection[];
}

/** Nothing has that name that the caller may run. */
export interface NothingFound {
  readonly kind: 'nothing';
  readonly near: readonly string[];
}

/** What help has to say, as data, for a look of your own. */
export type Help = HelpIndex | CommandHelp | GroupHelp | NothingFound;

/** What help is about. */
export interface HelpView extends Listing {
  readonly catalogue: Catalogue;
  /** Examples that read where the reader is; none for those who do not type. */
  readonly examplesOf: (command: CompiledCommand) => MaybePromise<readonly string[]>;
  /** Permissions that the bot would need for a command, and does not have where the reader is. */
  readonly lackedBy: (command: CompiledCommand) => MaybePromise<readonly string[]>;
}

/** Help on one command or group, by name or alias; on all where none is named. */
export function helpOn(view: HelpView, name: string | undefined): MaybePromise<Help> {
  if (name === undefined || name.trim() === '') return index(view);
  const found = view.catalogue.find(withoutPrefix(name, view.prefix));
  if (found === undefined || !isEntryShown(found, view.isShown))
    return { kind: 'nothing', near: nearNamesOf(view, name) };
  return found.kind === 'group' ? groupHelp(view, found) : commandHelp(view, found);
}

/** People write a name as they would call it. */
function withoutPrefix(name: string, prefix: string): string {
  return prefix !== '' && name.startsWith(prefix) ? name.slice(prefix.length) : name;
}

function index(view: HelpView): HelpIndex {
  // What has no heading would seem to belong to the one above it.
  const sections = new Map<string | undefined, HelpLine[]>([[undefined, []]]);
  for (const entry of view.catalogue.entries) {
    if (!isEntryShown(entry, view.isShown)) continue;
    foundOrMade(sections, entry.section, () => []).push(entryLine(view, entry));
  }
  const all = [...sections].map(([heading, lines]) => ({ heading, lines }));
  return { kind: 'index', sections: all.filter(({ lines }) => lines.length > 0) };
}

function groupHelp(view: HelpView, group: CompiledGroup): GroupHelp {
  const { name, aliases, members } = group;
  const description = descriptionOf(view, group);
  return { kind: 'group', name, description, aliases, lines: linesOf(view, members) };
}

async function commandHelp(view: HelpView, command: CompiledCommand): Promise<CommandHelp> {
  const [examples, lacks] = await Promise.all([view.examplesOf(command), view.lackedBy(command)]);
  return helpWith(view, command, examples, lacks);
}

function helpWith(
  view: HelpView,
  command: CompiledCommand,
  examples: readonly string[],
  lacks: readonly string[],
): CommandHelp {
  const { name, aliases, notation, slots, requires, counted } = command;
  const description = descriptionOf(view, command);
  const described = localizedOf(view, command)?.args ?? {};
  const written = (args: string) => `${view.prefix}${name} ${args}`.trimEnd();
  return {
    kind: 'command',
    name,
    description,
    aliases,
    usage: written(notation),
    args: slots.all.map((slot) => argumentHelp(slot, command, described[slot.name])),
    examples: examples.map(written),
    requires: requires.map(({ requirement }) => requirement),
    lacks,
    limits: counted.map(({ uses, windowMs, by }) => ({ uses, windowMs, counts: by })),
  };
}

function argumentHelp(slot: Slot, { slots }: CompiledCommand, localized: string | undefined): HelpArgument {
  const { name, kind, absent } = slot;
  const description = localized ?? slot.description;
  const flag = slots.flags?.all.find((one) => one.slot === slot);
  const isRequired = absent.as === 'problem';
  const written = flag?.spelling ?? slotNotation(slot);
  return { name, written, description, expected: kind.expected, isRequired };
}

/** In the group that was named, or outside of groups; where nothing is, by the own names of what is in groups. */
function nearNamesOf(view: HelpView, name: string): readonly string[] {
  const { catalogue } = view;
  const words = withoutPrefix(name, view.prefix).trim().split(/\s+/);
  const last = words.pop() ?? '';
  const around = words.length === 0 ? undefined : catalogue.find(words.join(' '));
  const near = nearAmong(view, last, [around?.kind === 'group' ? around.names : catalogue.names]);
  if (near.length > 0 || around !== undefined) return near;
  const inGroups = catalogue.groups.map((one) => one.names);
  return nearAmong(view, last, inGroups);
}

function nearAmong(view: HelpView, typed: string, tables: readonly NameTable<Entry>[]): readonly string[] {
  const exact = tables.flatMap((names) => names.get(typed) ?? []).filter((one) => isEntryShown(one, view.isShown));
  const near = tables.flatMap((names) => nearShown(names, typed, view.isShown).map(([, entry]) => entry));
  return [...new Set([...exact, ...near])].slice(0, MOST_NEAR).map((entry) => entry.name);
}

const MOST_NEAR = 3;
