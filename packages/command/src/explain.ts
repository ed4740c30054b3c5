/** `taxeon explain`: what the configured bot would do with one line. */
import { complete, type Explanation, explain, type Input, isPlatformError, systemClock } from 'taxeon';
import { readSlashLine, type StandIn } from 'taxeon/stand-in';
import { UsageError } from './errors.js';
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
}

export async function explainLine(line: string, options: ExplainOptions): Promise<void> {
  const { layer, platform } = await openBot(options.config, systemClock);
  const input = inputFrom(line, options, platform);
  if (options.complete) {
    const suggestions = await complete(
      layer,
      input,
      options.surface === 'slash' ? lastOption(input) : line.length,
      platform,
    );
    if (options.json) console.log(JSON.stringify(suggestions, null, 2));
    else printSuggestions(suggestions, line, options.surface === 'slash' ? undefined : line.length);
    return;
  }
  const explanation = await explain(layer, input, platform);
  if (options.json) console.log(JSON.stringify(asJson(explanation), null, 2));
  else printExplanation(explanation, line, input);
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

function asJson({ status, command, args, stoppedAt, code, message, stages }: Explanation) {
  return {
    status,
    command,
    args:
      args === null ? null : Object.fromEntries(Object.entries(args).map(([name, value]) => [name, jsonValue(value)])),
    stoppedAt,
    code,
    message,
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
