/** Turning declarations into a catalogue: all checks and all derivation happen once, here. */

import { type CompiledRequirement, compileRequirements } from '../access/compile.js';
import { requirementBuilder } from '../access/requirements/index.js';
import { NameTable } from '../base/name-table.js';
import { durationMs } from '../base/time.js';
import { type Arg, type ArgMap, holdsMembers } from '../commands/arg.js';
import type { AroundHook } from '../commands/call.js';
import type { AnyDeclaration, Command, Scope } from '../commands/command.js';
import { type CommandOrGroup, type Group, type GroupDeclaration, isGroup } from '../commands/group.js';
import { leavesOf, type Requirement } from '../commands/requirements.js';
import type { Surface } from '../contract/input.js';
import { compileSlots } from '../reading/slots.js';
import type { Language } from '../replies/language.js';
import { runWithin } from './around.js';
import type { Catalogue, CompiledCommand, CompiledGroup, CompiledScope, Entry } from './catalogue.js';
import { checkCatalogue } from './check.js';
import { isGuildBound } from './check-args.js';
import { countedOf } from './compile-limits.js';
import { addNames, namesOf } from './entries.js';
import { groupParts, type Inherited, inheritedFrom, isOuterId, localizedIn, nothing, outerIds } from './inherit.js';
import { DeclarationError } from './problem.js';
import { argumentNotation } from './usage.js';

export interface CatalogueOptions {
  /** Sets of guilds by name: `{ staging: ['stand-in/workbench'] }`. */
  readonly scopes?: Readonly<Record<string, readonly string[]>> | undefined;
  /** Where commands are registered that do not say; `'everywhere'` by default. */
  readonly scope?: Scope | undefined;
  /** What the layer asks through, where it does. */
  readonly asking?: unknown;
  readonly languages?: readonly Language[];
  /** Runs around every handler. */
  readonly around?: AroundHook | undefined;
}

/**
 * Compiles declarations.
 *
 * @throws DeclarationError with every problem of every command and group.
 */
export function compileCatalogue(declared: readonly CommandOrGroup[], options: CatalogueOptions = {}): Catalogue {
  const { around, scopes = {}, scope = 'everywhere', languages = [] } = options;
  const problems = checkCatalogue(declared, scopes, options.asking !== undefined, languages);
  if (problems.length > 0) throw new DeclarationError(problems);

  const byDeclaration = new Map<Command, CompiledCommand>();
  const groups: CompiledGroup[] = [];
  const outside: Inherited = {
    ...nothing,
    scopes,
    scope,
    languages,
    arounds: around === undefined ? [] : [{ by: 'the layer', around }],
  };
  const entries = declared.map((one) => compileEntry(one, outside));
  const outer = namesOf(entries);

  function compileEntry(one: CommandOrGroup, from: Inherited): Entry {
    if (isGroup(one)) return compileGroup(one, from);
    const command = compileCommand(one.declaration, from);
    byDeclaration.set(one, command);
    return command;
  }

  function compileGroup({ group }: Group, from: Inherited): CompiledGroup {
    const members: Entry[] = [];
    const names = new NameTable<Entry>();
    const commands: CompiledCommand[] = [];
    const described = groupParts(group, from);
    const inherited = inheritedFrom(group, from, described);
    const compiled: CompiledGroup = {
      ...described,
      members,
      names,
      commands,
      get overview() {
        return overview;
      },
    };
    // Its commands point back to it.
    inherited.groups = [...from.groups, compiled];
    members.push(...group.commands.map((one) => compileEntry(one, inherited)));
    commands.push(...members.flatMap((one) => (one.kind === 'group' ? one.commands : [one])));
    for (const member of members) addNames(names, member);
    const overview = overviewCommand(compiled, group, from);
    groups.push(compiled);
    return compiled;
  }

  const commands = [...byDeclaration.values()];
  const help = [...byDeclaration].find(([{ declaration }]) => declaration.isHelp === true)?.[1];
  return {
    commands,
    groups,
    entries,
    outer: [...new Set([...commands, ...groups].flatMap(({ ids }) => ids.filter(isOuterId)))],
    names: outer,
    help,
    find(name) {
      const [first = '', ...rest] = name.trim().split(/\s+/, MOST_WORDS + 1);
      let found = outer.get(first);
      for (const word of rest) found = found?.kind === 'group' ? found.names.get(word) : undefined;
      return found;
    },
    of: (command) => byDeclaration.get(command),
  };
}

/** A command's own name behind those of two groups. */
const MOST_WORDS = 3;

function compileCommand(declaration: AnyDeclaration, from: Inherited): CompiledCommand {
  const { args = {}, confirm } = declaration;
  const slots = compileSlots(args);
  const requires = [...from.requires, ...compileRequirements(requirementsOf(declaration))];
  const id = declaration.id ?? `${from.id}${declaration.name}`;
  const counted = [...from.counted, ...countedOf(declaration, id)];
  const { section = from.section, module = from.module } = declaration;
  const arounds =
    declaration.around === undefined
      ? from.arounds
      : [...from.arounds, { by: 'the command', around: declaration.around.bind(declaration) }];
  return {
    kind: 'command',
    name: `${from.path}${declaration.name}`,
    word: declaration.name,
    id,
    ids: [id, ...from.ids, ...outerIds(section, module)],
    groups: from.groups,
    section,
    scope: compiledScope(declaration.scope ?? from.scope, from.scopes),
    localized: localizedIn(declaration, from),
    description: declaration.description,
    aliases: declaration.aliases ?? [],
    in: Object.values(args).some(isGuildBound) ? 'guild' : (declaration.in ?? from.in ?? 'anywhere'),
    surfaces: surfacesOf(declaration.surfaces ?? from.surfaces),
    slots,
    requires,
    early: requires.filter(({ aboutCaller }) => aboutCaller),
    standing: requires.filter(({ byCaller }) => !byCaller),
    conditions: requires.flatMap(({ conditions }) => conditions),
    notTheBot: notTheBot(args, requires),
    counted,
    countsPlainly: counted.every(
      ({ exempt, key, cost }) => exempt === undefined && key === undefined && cost === undefined,
    ),
    endsLimits: counted.some(({ windowMs, charge }) => windowMs === undefined || charge === 'completed'),
    notation: argumentNotation(slots),
    examples: declaration.examples,
    visibleTo: declaration.visibleTo ?? 'everyone',
    timeoutMs: declaration.timeout === undefined ? undefined : durationMs(declaration.timeout),
    messages: declaration.messages === undefined ? from.messages : { ...from.messages, ...declaration.messages },
    manners: declaration.manners === undefined ? from.manners : [...from.manners, declaration.manners],
    whenMissing: declaration.whenMissing ?? from.whenMissing,
    confirm: typeof confirm === 'function' ? confirm.bind(declaration) : confirm,
    together: declaration.together?.bind(declaration),
    onRefusal: declaration.onRefusal?.bind(declaration) ?? from.onRefusal,
    aroundBy: arounds.map(({ by }) => by),
    run: runWithin(arounds, declaration.run.bind(declaration)),
    overviewOf: undefined,
  };
}

/** Nothing is done to the bot itself, unless the argument or a requirement on it says that it may be named. */
function notTheBot(args: ArgMap, requires: readonly CompiledRequirement[]): readonly string[] {
  const whom = Object.keys(args).filter((name) => holdsMembers(args[name] as Arg<unknown>));
  return whom.filter((name) => {
    const { kind } = args[name] as Arg<unknown>;
    return (kind.item?.kind ?? kind).traits?.orBot !== true && !requires.some((one) => allowsBot(one, name));
  });
}

function allowsBot({ requirement }: CompiledRequirement, name: string): boolean {
  return [...leavesOf(requirement)].some(
    ({ traits, parameters }) => traits.orBot === true && parameters.argument === name,
  );
}

/** Most commands have these alike: what they share is met in every cache. Hot path: bench/rows/catalogue. */
const everywhere: CompiledScope = { isEverywhere: true, guilds: new Set() };
const usualSurfaces: ReadonlySet<Surface> = new Set<Surface>(['text', 'slash', 'program', 'console']);

function compiledScope(scope: Scope, scopes: Inherited['scopes']): CompiledScope {
  if (scope === 'everywhere') return everywhere;
  const names = typeof scope === 'string' ? [scope] : scope;
  const guilds = names.filter((name) => name !== 'everywhere').flatMap((name) => scopes[name] ?? [name]);
  return { isEverywhere: names.includes('everywhere'), guilds: new Set(guilds) };
}

/** What is run for `!overdue` alone; whom it is for is decided by what they may run of it. */
function overviewCommand(
  overviewOf: CompiledGroup,
  { name, description, ...group }: GroupDeclaration,
  from: Inherited,
) {
  const declaration: AnyDeclaration = { name, description, visibleTo: 'caller-if-possible', run: () => undefined };
  const command = compileCommand(declaration, { ...nothing, path: from.path, groups: from.groups });
  return { ...command, id: overviewOf.id, ids: overviewOf.ids, aliases: group.aliases ?? [], overviewOf };
}

/** The bot's own code reaches every command. */
function surfacesOf(surfaces: AnyDeclaration['surfaces']): ReadonlySet<Surface> {
  if (surfaces === undefined) return usualSurfaces;
  return new Set<Surface>([...surfaces, 'program']);
}

export function requirementsOf(declaration: AnyDeclaration): readonly Requirement[] {
  return declaration.requires?.(requirementBuilder) ?? [];
}
