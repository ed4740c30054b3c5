/** `taxeon explain`: what the configured bot would do with one line. */

import { readSlashLine, type StandIn } from '@taxeon/testing';
import { type Clock, systemClock } from 'taxeon';
import { type Input, isPlatformError } from 'taxeon/platform';
import { complete, type Explanation, explain } from 'taxeon/queries';
import { UsageError } from './errors.js';
import { aboutInput, printJson } from './json.js';
import { openBot } from './open.js';
import { printExplanation, printSuggestions } from './print-explanation.js';

export interface ExplainOptions {
  readonly as?: string;
  readonly in?: string;
  readonly surface: 'text' | 'slash' | 'console';
  readonly config?: string;
  readonly json: boolean;
  /** Instead of explaining, what could stand where the line ends. */
  readonly complete: boolean;
  /** When it is typed, in ISO 8601; now by default. */
  readonly at?: string;
  /** The status or the code that it should come to. */
  readonly expect?: string;
}

export async function explainLine(line: string, options: ExplainOptions): Promise<void> {
  if (options.surface === 'console' && options.as !== undefined)
    throw new UsageError('The console is nobody: --as does not go with --surface console.');
  const { layer, platform } = await openBot(options.config, await clockAt(options.at));
  const input = inputFrom(line, options, platform);
  if (options.complete) {
    const suggestions = await complete(
      layer,
      input,
      options.surface === 'slash' ? lastOption(input) : line.length,
      platform,
    );
    if (options.json) printJson({ about: aboutInput(input), suggestions });
    else printSuggestions(suggestions, line, options.surface === 'slash' ? undefined : line.length);
    return;
  }
  const explanation = await explain(layer, input, platform);
  if (options.json) printJson({ about: aboutInput(input), ...explanationJson(explanation) });
  else printExplanation(explanation, line, input);
  const { expect } = options;
  if (expect === undefined || expect === explanation.status || expect === explanation.code) return;
  const { failExpectation } = await import('./expect.js');
  const said = explanation.code === null ? explanation.status : `${explanation.status}, ${explanation.code}`;
  failExpectation([`The line is ${said}; expected ${expect}.`]);
}

async function clockAt(at: string | undefined): Promise<Clock> {
  if (at === undefined) return systemClock;
  const moment = Date.parse(at);
  if (Number.isNaN(moment)) throw new UsageError(`"${at}" is no moment; write one such as 2026-05-09T13:00:00Z.`);
  const { virtualClock } = await import('@taxeon/testing');
  return virtualClock(moment);
}

function inputFrom(line: string, { as, in: place, surface }: ExplainOptions, platform: StandIn): Input {
  try {
    if (surface === 'console') return platform.typed({ surface, place: place ?? 'console', text: line });
    const doing = { person: personNamed(as, platform), place: place ?? firstGuild(platform) };
    return surface === 'slash'
      ? platform.invoked({ ...doing, ...readSlashLine(line) })
      : platform.typed({ ...doing, text: line });
  } catch (error) {
    if (isPlatformError(error) || error instanceof SyntaxError) throw new UsageError(`${error.message}.`);
    throw error;
  }
}

function personNamed(wanted: string | undefined, { directory: { people } }: StandIn): string {
  const names = [...people.keys()].join(', ');
  if (wanted === undefined) throw new UsageError(`Say who types it with --as PERSON; there are ${names}.`);
  const person = [...people.values()].find(
    ({ id, name }) => id === wanted || name.toLowerCase() === wanted.toLowerCase(),
  );
  if (person === undefined) throw new UsageError(`There is no person "${wanted}"; there are ${names}.`);
  return person.id;
}

function firstGuild({ directory: { guilds } }: StandIn): string {
  const [first] = guilds.keys();
  if (first === undefined) throw new UsageError('The simulated platform has no guild; say --in direct.');
  return first;
}

/** The option that is being typed: the last one. */
function lastOption({ options = {} }: Input): string {
  const last = Object.keys(options).at(-1);
  if (last === undefined) throw new UsageError('Say which option is being typed: who=w');
  return last;
}

function explanationJson({ status, command, args, stoppedAt, code, message, meant, stages }: Explanation) {
  return {
    status,
    command,
    args:
      args === null ? null : Object.fromEntries(Object.entries(args).map(([name, value]) => [name, jsonValue(value)])),
    stoppedAt,
    code,
    message,
    meant,
    stages: stages.map(({ name, verdict, reason }) => ({ name, verdict, reason })),
  };
}

/** People are told by id and name; their permissions are no part of an argument. */
function jsonValue(value: unknown): unknown {
  if (value === undefined) return null;
  if (Array.isArray(value)) return value.map(jsonValue);
  if (typeof value === 'object' && value !== null && 'id' in value && 'name' in value) {
    return { id: value.id, name: value.name };
  }
  return value;
}
