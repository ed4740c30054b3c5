/** Turning declarations into a catalogue: all checks and all derivation happen once, here. */

import { type CompiledRequirement, compileRequirements } from '../access/compile.js';
import { foldName } from '../base/text.js';
import { durationMs } from '../base/time.js';
import type { Whereabouts } from '../commands/call.js';
import type { AnyDeclaration, Command } from '../commands/command.js';
import { type Requirement, requirementBuilder } from '../commands/requirements.js';
import type { MessageOverrides } from '../contract/codes.js';
import type { Surface } from '../contract/input.js';
import type { Visibility } from '../contract/notice.js';
import { compileSlots, type Slots } from '../reading/slots.js';
import { checkCommand, checkTogether, DeclarationError } from './check.js';
import { isGuildBound } from './check-args.js';
import { type Counted, countedOf } from './counted.js';
import { argumentNotation, exampleArguments } from './usage.js';

/** A command as the stages use it. Nothing in it changes after it was made. */
export interface CompiledCommand {
  readonly name: string;
  readonly id: string;
  readonly description: string;
  readonly aliases: readonly string[];
  readonly in: Whereabouts;
  readonly surfaces: ReadonlySet<Surface>;
  readonly slots: Slots;
  readonly requires: readonly CompiledRequirement[];
  /** Those that need arguments, the bot or a check. */
  readonly standing: readonly CompiledRequirement[];
  readonly counted: readonly Counted[];
  /** No limit has an exemption, a key or a cost of its own: all is known at once. */
  readonly countsPlainly: boolean;
  /** Some limit has something to settle when the call ends. */
  readonly settlesLimits: boolean;
  /** `<who> <pence> [tool]` */
  readonly notation: string;
  /** `Wren 1`: what is required, filled in. */
  readonly example: string;
  readonly visibleTo: Visibility;
  /** How long the handler may take, in milliseconds; the layer's own where it is absent. */
  readonly timeoutMs: number | undefined;
  /** The command's own words for codes. */
  readonly messages: MessageOverrides | undefined;
  readonly together: AnyDeclaration['together'];
  readonly onRefusal: AnyDeclaration['onRefusal'];
  readonly run: AnyDeclaration['run'];
}

export interface Catalogue {
  readonly commands: readonly CompiledCommand[];
  /** The command of a name or alias, however it is spelled. Hot path: bench/dispatch. */
  find(name: string): CompiledCommand | undefined;
  /** The compiled form of a declared command, where it is in this catalogue. */
  of(declared: Command): CompiledCommand | undefined;
}

/**
 * Compiles declarations.
 *
 * @throws DeclarationError with every problem of every command.
 */
export function compileCatalogue(declared: readonly Command[]): Catalogue {
  const problems = declared.flatMap(({ declaration }) => checkCommand(declaration));
  problems.push(...checkTogether(declared.map(({ declaration }) => declaration)));
  if (problems.length > 0) throw new DeclarationError(problems);

  const byName = new Map<string, CompiledCommand>();
  const byDeclaration = new Map<Command, CompiledCommand>();
  for (const command of declared) {
    const compiled = compileCommand(command.declaration);
    byDeclaration.set(command, compiled);
    for (const name of [compiled.name, ...compiled.aliases]) byName.set(foldName(name), compiled);
  }
  return {
    commands: [...byDeclaration.values()],
    find: (name) => byName.get(name) ?? byName.get(foldName(name)),
    of: (command) => byDeclaration.get(command),
  };
}

function compileCommand(declaration: AnyDeclaration): CompiledCommand {
  const args = declaration.args ?? {};
  const slots = compileSlots(args);
  const requires = compileRequirements(requirementsOf(declaration));
  const counted = countedOf(declaration, declaration.id ?? declaration.name);
  return {
    name: declaration.name,
    id: declaration.id ?? declaration.name,
    description: declaration.description,
    aliases: declaration.aliases ?? [],
    in: Object.values(args).some(isGuildBound) ? 'guild' : (declaration.in ?? 'anywhere'),
    surfaces: surfacesOf(declaration),
    slots,
    requires,
    standing: requires.filter(({ byCaller }) => !byCaller),
    counted,
    countsPlainly: counted.every(
      ({ exempt, key, cost }) => exempt === undefined && key === undefined && cost === undefined,
    ),
    settlesLimits: counted.some(({ windowMs, charge }) => windowMs === undefined || charge === 'completed'),
    notation: argumentNotation(slots),
    example: exampleArguments(slots),
    visibleTo: declaration.visibleTo ?? 'everyone',
    timeoutMs: declaration.timeout === undefined ? undefined : durationMs(declaration.timeout),
    messages: declaration.messages,
    together: declaration.together?.bind(declaration),
    onRefusal: declaration.onRefusal?.bind(declaration),
    run: declaration.run.bind(declaration),
  };
}

/** The bot's own code reaches every command; the console those that text reaches. */
function surfacesOf({ surfaces = ['text', 'slash'] }: AnyDeclaration): ReadonlySet<Surface> {
  const all = new Set<Surface>([...surfaces, 'program']);
  if (all.has('text')) all.add('console');
  return all;
}

export function requirementsOf(declaration: AnyDeclaration): readonly Requirement[] {
  return declaration.requires?.(requirementBuilder) ?? [];
}
