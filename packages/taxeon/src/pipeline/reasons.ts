/** What each stage found, in words for the bot's developer; made only for a trace. */

import { isExcused } from '../access/check.js';
import type { CompiledRequirement } from '../access/compile.js';
import type { CompiledSettings } from '../access/rules.js';
import { durationInWords } from '../base/time.js';
import type { CompiledCommand } from '../catalogue/compile.js';
import type { Counted } from '../catalogue/counted.js';
import type { Refusal } from '../commands/call.js';
import { requirementInWords } from '../commands/requirements.js';
import type { StageName } from '../contract/trace.js';
import { english } from '../replies/english.js';
import type { Run } from './run-object.js';
import type { Stop } from './stages.js';

/** Why the input goes on behind a stage, to be put into words later. */
export function passedBecause(stage: StageName, run: Run): () => string {
  // Settings may have changed by the time somebody reads it.
  const { settings } = run;
  return () => passedInWords(stage, run, settings);
}

function passedInWords(stage: StageName, run: Run, settings: CompiledSettings): string {
  const command = run.found;
  switch (stage) {
    case 'intake':
      return `from ${run.input.caller.kind === 'console' ? 'the console' : run.input.caller.name}`;
    case 'match':
      return run.surface === 'text'
        ? `prefix ${run.input.text?.slice(0, run.nameAt)}`
        : `${run.surface} needs no prefix`;
    case 'resolve':
      return command === undefined ? '' : resolvedAs(run, command);
    case 'reach':
      return `${run.surface}, ${whereabouts(run)}`;
    case 'access':
      return command === undefined ? '' : accessInWords(command, run, settings);
    case 'read':
      return valuesInWords(run);
    case 'standing':
      return command === undefined ? '' : standingInWords(command);
    case 'limits':
      return command === undefined || command.counted.length === 0
        ? 'no limit'
        : command.counted.map(limitInWords).join('; ');
    default:
      return '';
  }
}

/** Why the input stopped at a stage. */
export function stoppedBecause(stop: Stop, run: Run): string {
  switch (stop.status) {
    case 'completed':
      return run.found === undefined ? 'onUnknown answered' : `the handler answered${insideOf(run.found)}`;
    case 'runs':
      return 'the handler would run';
    case 'invalid':
      return stop.problems
        .map((problem) => `${problem.code}: ${english.messages[problem.code](problem.parameters as never)}`)
        .join(' ');
    case 'failed':
      return `${stop.code}: ${stop.parameters.reference}`;
    case 'refused':
      return stop.by === 'handler'
        ? `${stop.refusal.code}: ${reasonInWords(stop.refusal)}`
        : `${stop.code}: ${english.messages[stop.code](stop.parameters as never)}`;
  }
}

function insideOf({ aroundBy }: CompiledCommand): string {
  return aroundBy.length === 0 ? '' : `, inside what runs around it by ${aroundBy.join(', ')}`;
}

function reasonInWords({ reason }: Refusal): string {
  return typeof reason === 'string' ? reason : reason(english.words, 'UTC');
}

function resolvedAs({ typed }: Run, { name, overviewOf }: CompiledCommand): string {
  const meant = overviewOf === undefined ? name : `the group ${name} alone`;
  return typed.toLowerCase() === meant ? meant : `${typed} is ${meant}`;
}

function whereabouts({ place }: Run): string {
  switch (place.kind) {
    case 'guild':
      return `in ${place.guild.name}, ${place.channel.name}`;
    case 'direct':
      return 'in a direct message';
    case 'console':
      return 'in no guild';
  }
}

function requirementsInWords(requirements: readonly CompiledRequirement[]): string {
  return requirements.map(({ requirement }) => requirementInWords(requirement)).join('; ');
}

function accessInWords(command: CompiledCommand, run: Run, settings: CompiledSettings): string {
  const own = requirementsInWords(command.requires.filter(({ byCaller }) => byCaller));
  if (own === '') return 'nothing is asked of the caller alone';
  const { caller, guild, place, now, rights } = run;
  return isExcused(command, { caller, guild, place, now, rights, settings }) ? `${own}; granted` : own;
}

function standingInWords(command: CompiledCommand): string {
  const requirements = requirementsInWords(command.standing);
  const together = command.together === undefined ? '' : 'the arguments go together';
  return [requirements, together].filter((part) => part !== '').join('; ') || 'nothing else is required';
}

function valuesInWords({ args }: Run): string {
  const parts = Object.entries(args).map(([name, value]) => `${name} = ${valueInWords(value)}`);
  return parts.length === 0 ? 'no arguments' : parts.join(', ');
}

function valueInWords(value: unknown): string {
  if (value === undefined) return 'nothing';
  if (Array.isArray(value)) return value.map(valueInWords).join(' and ');
  if (value instanceof Date) return value.toISOString();
  if (typeof value === 'object' && value !== null && 'name' in value) return String(value.name);
  return JSON.stringify(value) ?? String(value);
}

function limitInWords({ by, uses, windowMs }: Counted): string {
  return windowMs === undefined
    ? `${by}: at most ${uses} at once`
    : `${by}: within ${uses} in ${durationInWords(windowMs)}`;
}
