/** `taxeon check`: what is wrong with the configured bot, and what looks as if it were not meant. */

import { keptLog, type LoggedLine } from '@taxeon/testing/tryouts';
import colors from 'picocolors';
import { type DeclarationProblem, systemClock } from 'taxeon';
import { type ModuleProblem, moduleProblemInWords } from 'taxeon/modules';
import { visibleText } from 'taxeon/platform';
import { type BotWarning, checkBot, problemInWords } from 'taxeon/queries';
import { UsageError } from './errors.js';
import { printJson } from './json.js';
import { openBot } from './open.js';
import { print } from './print.js';
import { terminalWidth, wrap } from './terminal.js';

export interface CheckOptions {
  readonly json: boolean;
  readonly config?: string;
}

interface FoundProblems {
  readonly problems: readonly (DeclarationProblem | ModuleProblem)[];
  readonly warnings: readonly BotWarning[];
  /** What the bot has logged while it opened and met its platform. */
  readonly logged: readonly string[];
}

/** @returns the exit status: 1 where there is a problem */
export async function checkConfigured({ json, config }: CheckOptions): Promise<number> {
  const found = await look(config);
  if (json) printJson(found);
  else print(foundLines(found).join('\n'));
  return found.problems.length === 0 ? 0 : 1;
}

async function look(config: string | undefined): Promise<FoundProblems> {
  const log = keptLog();
  try {
    const { layer, platform } = await openBot(config, systemClock, log);
    const warnings = await checkBot(layer, platform);
    await layer.connected(platform);
    await layer.close();
    const logged = log.lines.filter((line) => !isToldAlready(line)).map(loggedInWords);
    return { problems: [], warnings, logged: [...new Set(logged)] };
  } catch (error) {
    const problems = error instanceof UsageError ? foundProblems(error.cause) : undefined;
    if (problems === undefined) throw error;
    return { problems, warnings: [], logged: [] };
  }
}

/** It is a warning of its command's. */
function isToldAlready({ message, fields }: LoggedLine): boolean {
  return message === 'The platform lacks what is required' && 'permission' in fields;
}

/** `A guild has no role for one of the bot’s own: guild pellbrook, role steward`. */
function loggedInWords({ message, fields }: LoggedLine): string {
  const told = Object.entries(fields).flatMap(([name, value]) => {
    const text = value instanceof Error ? value.message : Array.isArray(value) ? value.join(', ') : String(value);
    return value === undefined ? [] : [`${name} ${visibleText(text)}`];
  });
  return told.length === 0 ? message : `${message}: ${told.join(', ')}`;
}

/** By its form: the bot may be made with another copy of the library. */
function foundProblems(error: unknown): FoundProblems['problems'] | undefined {
  const { name, problems } = (error ?? {}) as { readonly name?: unknown; readonly problems?: unknown };
  return (name === 'DeclarationError' || name === 'ModulesError') && Array.isArray(problems) ? problems : undefined;
}

function foundLines({ problems, warnings, logged }: FoundProblems): string[] {
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
    ...(logged.length === 0
      ? []
      : [
          `  ${colors.bold('It logs, as it opens')}`,
          ...logged.flatMap((line) => entry(`  ${line}`, colors.yellow)),
          '',
        ]),
    `  ${checkVerdict(problems, warnings.length + logged.length)}`,
    '',
  ];
}

function toldProblem(problem: FoundProblems['problems'][number]): string {
  return 'command' in problem ? problemInWords(problem) : moduleProblemInWords(problem);
}

/** The mend, which stands behind the last semicolon, in colour; where there is one, the rest is pale. */
function entry(text: string, paint: (text: string) => string): string[] {
  const lines = wrap(`  ${text}`, terminalWidth() - 2);
  const indent = /^ */.exec(`  ${text}`)?.[0].length ?? 0;
  let mendAt = `  ${text}`.lastIndexOf('; ') + 2;
  if (mendAt < 2) return lines.map((line, index) => (index === 0 ? line : `  ${line}`));
  return lines.map((line, index) => {
    const [known, mend] = [line.slice(0, Math.max(0, mendAt)), line.slice(Math.max(0, mendAt))];
    // Where a line is broken, a space went, and the next one has the indent of the first.
    mendAt -= line.length + 1 - indent;
    return `${index === 0 ? '' : '  '}${colors.dim(known)}${paint(mend)}`;
  });
}

function checkVerdict(problems: FoundProblems['problems'], warnings: number): string {
  if (problems.length > 0) {
    return colors.red(`The bot does not open: ${countOf(problems.length, 'problem', 'problems')}.`);
  }
  if (warnings > 0) return `The bot opens. ${countOf(warnings, 'thing', 'things')} to look at.`;
  return colors.green('The bot opens, and nothing looks wrong.');
}

function countOf(count: number, one: string, many: string): string {
  return `${count} ${count === 1 ? one : many}`;
}
