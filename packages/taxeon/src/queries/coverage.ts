/** What of a bot was never tried. */
import { asThingsAre } from '../access/algebra.js';
import { accessContextOf } from '../access/check.js';
import type { Decidable } from '../access/requirement.js';
import { foundOrMade } from '../base/bounded-map.js';
import type { CompiledCommand } from '../catalogue/catalogue.js';
import { leavesOf } from '../commands/requirements.js';
import type { Code, Coded } from '../contract/codes.js';
import type { Input } from '../contract/input.js';
import type { Outcome } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { standing } from './access-table.js';
import { explain } from './explain.js';

/** Of commands that were tried; those that were not are told by their names alone. */
export interface Untried {
  readonly commands: readonly string[];
  /** Never given by anybody. */
  readonly arguments: readonly { readonly command: string; readonly argument: string }[];
  /** Never the reason of a refusal, in English. Whose rank it was is not told apart. */
  readonly requirements: readonly { readonly command: string; readonly requirement: string }[];
  /** Of limits and of reading; never an outcome. */
  readonly codes: readonly { readonly command: string; readonly code: string }[];
}

/** What was tried of a bot so far. */
export interface Coverage {
  /** Takes note of what was tried, and of what became of it. */
  note(
    tried: { readonly input: Input; readonly outcome: Outcome },
    layer: CommandLayer,
    platform: Platform,
  ): Promise<void>;
  untried(layer: CommandLayer): Untried;
}

interface TriedParts {
  readonly arguments: Set<string>;
  readonly reasons: Set<string>;
}

/**
 * Gathers what was tried, such as over all tryouts of a bot.
 *
 * @example
 * const covered = coverage();
 * for await (const step of playTryout(tryout, rehearsal, clock)) {
 *   if (step.kind === 'exchange') await covered.note(step.exchange, rehearsal.layer, rehearsal.platform);
 * }
 * covered.untried(layer).commands;
 */
export function coverage(): Coverage {
  const tried = new Map<string, TriedParts>();
  return {
    async note({ input, outcome }, layer, platform) {
      if (outcome.status === 'ignored' || outcome.command === undefined) return;
      const of = foundOrMade(tried, outcome.command, () => ({ arguments: new Set(), reasons: new Set() }));
      for (const reason of outcomeReasons(outcome)) of.reasons.add(reason);
      for (const name of Object.keys({ ...input.options, ...input.answers })) of.arguments.add(name);
      // Without its id, which would be that of a repeated delivery.
      const { id: _, ...again } = input;
      const { tokens } = await explain(layer, again, platform);
      for (const { takenBy, name } of tokens) if (takenBy === 'argument') of.arguments.add(name);
    },
    untried(layer) {
      const commands = insideOf(layer).current.catalogue.commands.filter(({ overviewOf }) => overviewOf === undefined);
      const touched = commands.filter(({ name }) => tried.has(name));
      const each = <One>(of: (command: CompiledCommand, tried: TriedParts) => readonly One[]) =>
        touched.flatMap((command) => of(command, tried.get(command.name) as TriedParts));
      return {
        commands: commands.filter(({ name }) => !tried.has(name)).map(({ name }) => name),
        arguments: each(({ name, slots }, of) =>
          slots.all
            .filter((slot) => !of.arguments.has(slot.name))
            .map((slot) => ({ command: name, argument: slot.name })),
        ),
        requirements: each(({ name, requires }, of) =>
          requires
            .flatMap(({ requirement }) => [...leavesOf(requirement)])
            .filter((leaf) => !of.reasons.has(reasonOf(leaf)))
            .map((leaf) => ({ command: name, requirement: leaf.english.plain })),
        ),
        codes: each((command, of) =>
          codesOf(command)
            .filter((code) => !of.reasons.has(code))
            .map((code) => ({ command: command.name, code })),
        ),
      };
    },
  };
}

function codesOf({ slots, counted }: CompiledCommand): readonly string[] {
  const codes: string[] = [];
  if (slots.all.length > 0) codes.push('argument.invalid');
  if (slots.all.some(({ absent }) => absent.as === 'problem')) codes.push('argument.missing');
  if (counted.some(({ windowMs }) => windowMs !== undefined)) codes.push('cooldown.active');
  if (counted.some(({ windowMs }) => windowMs === undefined)) codes.push('running.full');
  return codes;
}

function outcomeReasons(outcome: Exclude<Outcome, { status: 'ignored' }>): readonly string[] {
  if (outcome.status === 'waiting') {
    return outcome.asks.for === 'argument' ? [readingCode(outcome.asks.problem.code)] : [];
  }
  if (outcome.status === 'completed' || (outcome.status === 'refused' && outcome.by === 'handler')) return [];
  return reasonsIn(outcome as Coded<Code>);
}

function reasonsIn({ code, parameters }: Coded<Code>): readonly string[] {
  if ('missing' in parameters) return parameters.missing.map(({ what, name }) => `${code} ${what} ${name}`);
  // Names of permissions and of arguments tell refusals by access apart, and nothing else.
  if (!code.startsWith('permission.')) return [readingCode(code)];
  return [`${code} ${'argument' in parameters ? parameters.argument : 'name' in parameters ? parameters.name : ''}`];
}

/** Everything that is wrong with what was typed, but that it is missing. */
function readingCode(code: string): string {
  return /^(argument|input)\./.test(code) && code !== 'argument.missing' ? 'argument.invalid' : code;
}

/** What a refusal by a requirement is known by: it is asked about a caller and a target who have nothing. */
function reasonOf(leaf: Decidable): string {
  const stranger = standing('stranger', []);
  const args = Object.fromEntries([[leaf.parameters.argument ?? '', stranger]]);
  const decided = leaf.decide(accessContextOf(nothing, args, stranger));
  const [unmet = asThingsAre] = typeof decided === 'object' ? decided.unmet : [];
  return reasonsIn(unmet)[0] ?? unmet.code;
}

const nothing: Parameters<typeof accessContextOf>[0] = {
  caller: { kind: 'user', id: 'stranger', name: 'stranger' },
  platformName: '',
  settings: { isRole: () => false },
  rights: { console: {}, program: {}, owners: new Map(), rolesGiving: new Map() },
};
