/** What can be wrong with a declaration, and how it is told. */

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
    const lines = problems.map((one) => `  ${problemInWords(one)}`);
    super(
      `${problems.length === 1 ? 'A command declaration is' : `${problems.length} command declarations are`} wrong:\n${lines.join('\n')}`,
    );
  }
}

/**
 * A problem as it stands in the error's message: `borrow, keep: is …`, `borrow, alias 2: is …`.
 *
 * @example
 * try {
 *   createCommandLayer({ commands });
 * } catch (error) {
 *   if (error instanceof DeclarationError) for (const one of error.problems) console.error(problemInWords(one));
 * }
 */
export function problemInWords({ command, field, problem }: DeclarationProblem): string {
  return `${command}${field === '' ? '' : `, ${fieldInWords(field)}`}: ${problem}`;
}

function fieldInWords(field: string): string {
  return field
    .replace(/^args\./, '')
    .replace(/^(alias|example)e?s\[(\d+)\]$/, (_, what, index) => `${what} ${Number(index) + 1}`);
}
