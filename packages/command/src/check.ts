/** `taxeon check`: what is wrong with the configured bot, and what looks as if it were not meant. */
import colors from 'picocolors';
import { type BotWarning, checkBot, type DeclarationProblem, problemInWords, systemClock } from 'taxeon';
import { type ModuleProblem, moduleProblemInWords } from 'taxeon/modules';
import { UsageError } from './errors.js';
import { openBot } from './open.js';
import { wrap } from './wrap.js';

export interface CheckOptions {
  readonly format: 'text' | 'json';
  readonly config?: string;
}

interface Found {
  readonly problems: readonly (DeclarationProblem | ModuleProblem)[];
  readonly warnings: readonly BotWarning[];
}

/** @returns the exit status: 1 where there is a problem */
export async function checkConfigured({ format, config }: CheckOptions): Promise<number> {
  const found = await look(config);
  console.log(format === 'json' ? JSON.stringify(found, null, 2) : foundLines(found).join('\n'));
  return found.problems.length === 0 ? 0 : 1;
}

async function look(config: string | undefined): Promise<Found> {
  try {
    const { layer, platform } = await openBot(config, systemClock);
    return { problems: [], warnings: checkBot(layer, platform) };
  } catch (error) {
    const problems = error instanceof UsageError ? problemsOf(error.cause) : undefined;
    if (problems === undefined) throw error;
    return { problems, warnings: [] };
  }
}

/** By its form: the bot may be made with another copy of the library. */
function problemsOf(error: unknown): Found['problems'] | undefined {
  const { name, problems } = (error ?? {}) as { readonly name?: unknown; readonly problems?: unknown };
  return (name === 'DeclarationError' || name === 'ModulesError') && Array.isArray(problems) ? problems : undefined;
}

const WIDTH = 100;

function foundLines({ problems, warnings }: Found): string[] {
  const told = problems.map(toldProblem).flatMap((line) => entry(line, colors.red));
  const commands = [...new Set(warnings.map(({ command }) => command))];
  const lookedAt = commands.flatMap((command, index) => [
    ...(index === 0 ? [] : ['']),
    `  ${colors.bold(command)}`,
    ...warnings.filter((one) => one.command === command).flatMap(({ warning }) => entry(`  ${warning}`, colors.yellow)),
  ]);
  return [
    '',
    ...told,
    ...lookedAt,
    ...(told.length + lookedAt.length === 0 ? [] : ['']),
    `  ${verdict(problems, warnings)}`,
    '',
  ];
}

function toldProblem(problem: Found['problems'][number]): string {
  return 'command' in problem ? problemInWords(problem) : moduleProblemInWords(problem);
}

function entry(text: string, paint: (text: string) => string): string[] {
  return wrap(`  ${text}`, WIDTH - 2).map((line, index) => paint(index === 0 ? line : `  ${line}`));
}

function verdict(problems: Found['problems'], warnings: Found['warnings']): string {
  if (problems.length > 0) {
    return colors.red(`The bot does not open: ${counted(problems.length, 'problem', 'problems')}.`);
  }
  if (warnings.length > 0) return `The bot opens. ${counted(warnings.length, 'thing', 'things')} to look at.`;
  return colors.green('The bot opens, and nothing looks wrong.');
}

function counted(count: number, one: string, many: string): string {
  return `${count} ${count === 1 ? one : many}`;
}
