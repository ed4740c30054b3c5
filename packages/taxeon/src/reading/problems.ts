/** What is wrong with an input, as it is told. */
import type { Problem } from '../contract/outcome.js';
import type { Reading } from './reading.js';

/** In an order that does not depend on how it was given: by the arguments' own, then what is unknown, then what is left over. */
export function problemsOf(reading: Reading): readonly Problem[] | undefined {
  const { problems, slots, values } = reading;
  if (problems === undefined) return undefined;
  const rank = ({ code, parameters }: Problem) => {
    if (code === 'argument.unknown') return values.length;
    if (code === 'argument.extra' && parameters.because === 'left-over') return values.length + 1;
    return slots.all.findIndex(({ name }) => 'argument' in parameters && name === parameters.argument);
  };
  const ranked = problems.map((problem) => ({ problem, rank: rank(problem) }));
  return ranked.sort((one, other) => one.rank - other.rank).map(({ problem }) => quotable(reading, problem));
}

const LONGEST_QUOTED = 40;

/** With the quotes that would have made plain text of what was typed. */
function quotable(reading: Reading, problem: Problem): Problem {
  const { code, parameters, span } = problem;
  const { line, slots } = reading;
  if (span === undefined || line === undefined) return problem;
  let start: number | undefined = span.start;
  if (code === 'argument.extra') {
    start = parameters.because === 'left-over' ? wordBefore(reading, line, start) : undefined;
  } else if (code === 'argument.invalid') {
    const index = slots.positional.findIndex(({ name }) => name === parameters.argument);
    const slot = slots.positional[index];
    const leaves = slot?.kind.leavesQuoted === true && slot.absent.as !== 'problem';
    // What is beyond a bound was meant for the argument.
    const isBeyond = parameters.misfit === 'below' || parameters.misfit === 'above';
    if (isBeyond || !leaves || !slots.positional.slice(index).some(({ reader }) => reader.isVerbatim)) return problem;
  } else return problem;
  const typed = start === undefined ? '"' : line.slice(start, span.end);
  return typed.length > LONGEST_QUOTED || typed.includes('"') ? problem : { ...problem, quoted: `"${typed}"` };
}

/** Where the word in front of what is left over begins, if an argument took it as plain text. */
function wordBefore({ slots, values }: Reading, line: string, leftOver: number): number | undefined {
  const before = line.slice(Math.max(0, leftOver - LONGEST_QUOTED), leftOver).trimEnd();
  const word = before.slice(before.search(/\S*$/));
  const last = slots.positional.findLast(({ index }) => values[index] !== undefined);
  const isPlain = last?.reader.isVerbatim === true && last.convert === undefined && values[last.index] === word;
  return isPlain ? line.lastIndexOf(word, leftOver - 1) : undefined;
}
