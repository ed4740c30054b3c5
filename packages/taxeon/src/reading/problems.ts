/** What is wrong with an input, as it is told. */
import type { Problem } from '../contract/outcome.js';
import type { Reading } from './reading.js';

/** In an order that does not depend on how it was given: by the arguments' own, with what is left over at the end. */
export function problemsOf(reading: Reading): readonly Problem[] | undefined {
  const { problems, slots, values } = reading;
  if (problems === undefined) return undefined;
  const rank = ({ code, parameters }: Problem) => {
    if (code === 'argument.extra' && parameters.because === 'left-over') return values.length;
    return slots.all.findIndex(({ name }) => 'argument' in parameters && name === parameters.argument);
  };
  const ranked = problems.map((problem) => ({ problem, rank: rank(problem) }));
  return ranked.sort((one, other) => one.rank - other.rank).map(({ problem }) => quotable(reading, problem));
}

const LONGEST_QUOTED = 40;

/** With the quotes that would have made plain text of what was typed. */
function quotable({ line, plain, slots: { positional } }: Reading, problem: Problem): Problem {
  const { code, parameters, span } = problem;
  if (span === undefined || line === undefined) return problem;
  let { start } = span;
  if (code === 'argument.extra') {
    if (parameters.because === 'twice' || plain === undefined || line.slice(plain.end, start).trim() !== '')
      return problem;
    start = plain.start;
  } else {
    const index = positional.findIndex(({ name }) => 'argument' in parameters && name === parameters.argument);
    const slot = positional[index];
    const leaves = code === 'argument.invalid' && slot?.kind.leavesQuoted === true && slot.absent.as !== 'problem';
    if (!leaves || !positional.slice(index).some(({ kind }) => kind.traits?.isVerbatim)) return problem;
  }
  const typed = line.slice(start, span.end);
  return typed.length > LONGEST_QUOTED || typed.includes('"') ? problem : { ...problem, quoted: `"${typed}"` };
}
