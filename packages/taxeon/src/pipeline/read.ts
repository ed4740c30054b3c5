/** Stage 6: text or options into typed arguments. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { ReadingContext } from '../commands/kind.js';
import type { Problem } from '../contract/outcome.js';
import { problemsOf } from '../reading/problems.js';
import { readOptions, readValues } from '../reading/read-options.js';
import { readText } from '../reading/read-text.js';
import { Reading } from '../reading/reading.js';
import { examplesFor } from './examples.js';
import type { Step } from './stage.js';
import type { Admitted, Heard, Read } from './state.js';
import { invalid, type Stop } from './stop.js';

export const read: Step<Admitted, Read> = {
  kind: 'step',
  name: 'read',
  does: 'reads the line or the options into typed arguments, and looks up who and what they name',
  stopsWith: [
    'argument.missing',
    'argument.invalid',
    'argument.ambiguous',
    'argument.absent-member',
    'argument.extra',
    'argument.unknown',
    'input.malformed',
    'callback.failed',
  ],
  take,
  passed({ args }) {
    const parts = Object.entries(args).map(([name, value]) => `${name} = ${valueInWords(value)}`);
    return parts.length === 0 ? 'no arguments' : parts.join(', ');
  },
};

/** Hot path: bench/rows/calls. */
function take(state: Admitted): MaybePromise<Read | Stop> {
  const { heard, command } = state;
  const reading = new Reading(command.slots, readingContextOf(heard), heard.recorder !== undefined);
  const pending = readInto(reading, state);
  return isThenable(pending) ? pending.then(() => settle(reading, state)) : settle(reading, state);
}

function readInto(reading: Reading, { heard: { input }, cursor }: Admitted): MaybePromise<void> {
  if (cursor !== undefined) return readText(cursor, reading);
  const { surface, options = {} } = input;
  return surface === 'program' ? readValues(options, reading) : readOptions(options, reading);
}

function settle(reading: Reading, { heard, command, typed, cursor }: Admitted): MaybePromise<Read | Stop> {
  const { tokens, lowered, members } = reading;
  const problems = problemsOf(reading);
  if (tokens !== undefined) heard.recorder?.tokens.push(...tokens);
  if (problems !== undefined) {
    const stop = ([example]: readonly string[]) => invalid(problems as [Problem, ...Problem[]], example);
    // A line is shown to those who type one.
    const examples = cursor === undefined ? [] : examplesFor(command, reading.context);
    return isThenable(examples) ? examples.then(stop) : stop(examples);
  }
  const args = reading.args();
  const named = members === undefined ? args : { ...args, ...members };
  return { at: 'read', heard, command, typed, args, named, lowered };
}

/** What kinds, defaults and completions may look at. */
export function readingContextOf({ caller, place, platform, now, conversation }: Heard): ReadingContext {
  return { caller, place, platform, now, timeZone: conversation.timeZone };
}

function valueInWords(value: unknown): string {
  if (value === undefined) return 'nothing';
  if (Array.isArray(value)) return value.map(valueInWords).join(' and ');
  if (value instanceof Date) return value.toISOString();
  if (typeof value === 'object' && value !== null && 'name' in value) return String(value.name);
  return JSON.stringify(value) ?? String(value);
}
