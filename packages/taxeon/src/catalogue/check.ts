/** Everything that can be wrong with a set of declarations, told at once and before anything runs. */
import { foldName } from '../base/text.js';
import { durationMs } from '../base/time.js';
import type { AnyDeclaration } from '../commands/command.js';
import { requirementBuilder } from '../commands/requirements.js';
import { checkArgs, checkName, type Tell } from './check-args.js';
import { checkLimits, sharedProblems } from './check-limits.js';

/** One problem of one declaration. */
export interface DeclarationProblem {
  readonly command: string;
  /** Where in the declaration: `args.keep`, `cooldowns.user`. */
  readonly field: string;
  /** What is wrong and what mends it. */
  readonly problem: string;
}

/** Thrown while a catalogue is built, with all problems of all its commands. */
export class DeclarationError extends Error {
  override readonly name = 'DeclarationError';

  constructor(readonly problems: readonly DeclarationProblem[]) {
    const lines = problems.map(({ command, field, problem }) => `  ${command} › ${field}: ${problem}`);
    super(
      `${problems.length === 1 ? 'A command declaration is' : `${problems.length} command declarations are`} wrong:\n${lines.join('\n')}`,
    );
  }
}

const whereabouts = ['guild', 'direct', 'anywhere'];
const surfaces = ['text', 'slash', 'console'];

export function checkCommand(declaration: AnyDeclaration): DeclarationProblem[] {
  const command = typeof declaration.name === 'string' ? declaration.name : '(unnamed)';
  const found: DeclarationProblem[] = [];
  const tell = (field: string, problem: string) => found.push({ command, field, problem });

  checkName('name', declaration.name, tell);
  for (const [index, alias] of (declaration.aliases ?? []).entries()) checkName(`aliases[${index}]`, alias, tell);
  if (typeof declaration.description !== 'string' || declaration.description.trim() === '') {
    tell('description', 'is empty; say in one line what the command does');
  }
  if (declaration.in !== undefined && !whereabouts.includes(declaration.in)) {
    tell('in', `is ${JSON.stringify(declaration.in)}; give one of ${whereabouts.join(', ')}`);
  }
  for (const surface of declaration.surfaces ?? []) {
    if (!surfaces.includes(surface))
      tell('surfaces', `names ${JSON.stringify(surface)}; give any of ${surfaces.join(', ')}`);
  }
  const { timeout, visibleTo } = declaration;
  if (timeout !== undefined && !durationMs(timeout)) {
    tell('timeout', `is ${JSON.stringify(timeout)}; give a duration such as '30s'`);
  }
  if (visibleTo !== undefined && visibleTo !== 'everyone' && visibleTo !== 'caller') {
    tell('visibleTo', `is ${JSON.stringify(visibleTo)}; give 'everyone' or 'caller'`);
  }
  if (typeof declaration.run !== 'function') tell('run', 'is missing; give the function that does the work');
  checkArgs(declaration, tell);
  checkRequirements(declaration, tell);
  checkLimits(declaration, tell);
  return found;
}

function checkRequirements(declaration: AnyDeclaration, tell: Tell): void {
  if (declaration.requires === undefined) return;
  let list: unknown;
  try {
    list = declaration.requires(requirementBuilder);
  } catch (error) {
    tell('requires', `throws: ${error instanceof Error ? error.message : String(error)}`);
    return;
  }
  if (!Array.isArray(list)) {
    tell('requires', 'gives no list; return [ … ]');
    return;
  }
  for (const requirement of list) {
    if (requirement?.kind !== 'outranks') continue;
    const arg = declaration.args?.[requirement.argument];
    if (arg?.type !== 'member') tell('requires', `outranks('${requirement.argument}') names no member argument`);
  }
}

/** Names and aliases that two commands claim, ids that two commands have, and shared limits that differ. */
export function checkTogether(declarations: readonly AnyDeclaration[]): DeclarationProblem[] {
  const found: DeclarationProblem[] = [];
  const owners = new Map<string, string>();
  const ids = new Map<string, string>();
  for (const { name: command, aliases = [], id = command } of declarations) {
    for (const [index, name] of [command, ...aliases].entries()) {
      const folded = foldName(String(name));
      const owner = owners.get(folded);
      if (owner !== undefined) {
        const field = index === 0 ? 'name' : `aliases[${index - 1}]`;
        found.push({ command, field, problem: `"${name}" already belongs to ${owner}; rename one of them` });
      }
      owners.set(folded, owner ?? command);
    }
    const other = ids.get(id);
    if (other !== undefined)
      found.push({ command, field: 'id', problem: `"${id}" is also the id of ${other}; change one` });
    ids.set(id, other ?? command);
  }
  found.push(...sharedProblems(declarations));
  return found;
}
