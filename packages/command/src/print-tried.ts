/** What came of tryouts: as a conversation where something differs, as JSON, or as JUnit XML. */

import { type Mismatch, mismatchInWords, type Played } from '@taxeon/testing/tryouts';
import colors from 'picocolors';
import { visibleText } from 'taxeon/platform';
import type { Untried } from 'taxeon/queries';
import { printJson } from './json.js';
import { print } from './print.js';
import { createConversationPrinter, LONGEST_TITLE } from './print-conversation.js';
import { terminalWidth, wrap } from './terminal.js';
import { type AllTried, hasMismatch, isWrong, mismatchesOf, type Tried, type TryOptions } from './tried.js';
import type { FileProblem } from './tryout-file.js';

export function printTried(all: AllTried, options: TryOptions): void {
  if (options.json) printJson(triedJson(all));
  else if (options.format === 'junit') print(asJunit(all));
  else {
    for (const one of all.tried) printOne(one, options);
    if (all.untried !== undefined) for (const line of untriedLines(all.untried)) print(line);
    print(`\n  ${triedVerdict(all.tried)}\n`);
  }
}

type PlayedTryout = Extract<Tried, { played: unknown }>;

function printOne(one: Tried, { all }: TryOptions): void {
  if ('problems' in one) {
    print(`\n  ${colors.bold(visibleText(one.path, LONGEST_TITLE))}`);
    for (const problem of one.problems) print(colors.red(`  ${problemLine(problem)}`));
    return;
  }
  const { file, played, updated, path } = one;
  print(`\n  ${colors.bold(visibleText(file.tryout.tryout, LONGEST_TITLE))}`);
  const wrong = played.filter(hasMismatch).length;
  print(`  ${colors.dim(visibleText(path, LONGEST_TITLE))}  ${howItCame(played, wrong, updated)}`);
  if (all || (wrong > 0 && updated === 0)) printScenes(one, all);
}

function howItCame(played: readonly Played[], wrong: number, updated: number): string {
  const lines = countedAs(played.filter(({ kind }) => kind !== 'scene').length, 'line');
  if (updated > 0) return colors.yellow(`${countedAs(updated, 'value')} written into it`);
  if (wrong === 0) return colors.green(`${lines}, as expected`);
  return colors.red(`${wrong} of ${lines} not as expected`);
}

/** The scenes in which something differs; of the others, how many lines they have. */
function printScenes({ platform, played }: PlayedTryout, all: boolean): void {
  const printer = createConversationPrinter(platform);
  const scenes: Played[][] = [[]];
  for (const step of played) {
    if (step.kind === 'scene') scenes.push([step]);
    else scenes.at(-1)?.push(step);
  }
  for (const scene of scenes.filter(({ length }) => length > 0)) {
    if (all || scene.some(hasMismatch)) {
      for (const step of scene) printer.step(step);
      continue;
    }
    const [first] = scene;
    const name = first?.kind === 'scene' ? `${visibleText(first.text, LONGEST_TITLE)}: ` : '';
    const lines = scene.filter(({ kind }) => kind !== 'scene').length;
    if (lines > 0) print(colors.dim(`\n  ${name}${countedAs(lines, 'line')} as expected`));
  }
}

function problemLine({ path, line, column, problem }: FileProblem): string {
  return line === undefined ? problem : `${path}:${line}:${column}  ${problem}`;
}

function untriedLines({ commands, arguments: args, requirements, codes }: Untried): string[] {
  const rows: [string, readonly string[]][] = [
    ['commands', commands],
    ['arguments', byCommand(args, ({ argument }) => argument)],
    ['requirements', byCommand(requirements, ({ requirement }) => requirement)],
    ['codes', byCommand(codes, ({ code }) => code)],
  ];
  const width = Math.max(...rows.map(([name]) => name.length));
  const lines = rows.flatMap(([name, all]) => {
    if (all.length === 0) return [];
    const text = wrap(all.join('; '), terminalWidth() - width - 4);
    return text.map((line, index) => `  ${(index === 0 ? name : '').padEnd(width)}  ${line}`);
  });
  return lines.length === 0
    ? ['', '  Every command, argument, requirement and limit is tried.']
    : ['', `  ${colors.bold('Not tried')}`, ...lines];
}

/** `borrow: keep, note` */
function byCommand<One extends { readonly command: string }>(all: readonly One[], of: (one: One) => string): string[] {
  const found = new Map<string, string[]>();
  for (const one of all) found.set(one.command, [...(found.get(one.command) ?? []), of(one)]);
  return [...found].map(([command, names]) => `${command}: ${names.join(', ')}`);
}

function triedVerdict(tried: readonly Tried[]): string {
  const wrong = tried.filter(isWrong).length;
  const all = countedAs(tried.length, 'tryout');
  if (wrong === 0) return colors.green(`${all}, as expected.`);
  return colors.red(`${wrong} of ${all} not as expected.`);
}

function countedAs(count: number, what: string): string {
  return `${count} ${what}${count === 1 ? '' : 's'}`;
}

/** Each mismatch with the number of its line in the tryout, from 1 on. */
function numbered(played: readonly Played[]): readonly (Mismatch & { readonly line: number })[] {
  return played.flatMap((step, index) => mismatchesOf(step).map((one) => ({ line: index + 1, ...one })));
}

function triedJson({ tried, untried }: AllTried) {
  return {
    tryouts: tried.map((one) =>
      'problems' in one
        ? { file: one.path, asExpected: false, problems: one.problems.map(({ path: _, ...problem }) => problem) }
        : {
            file: one.path,
            tryout: one.file.tryout.tryout,
            asExpected: !isWrong(one),
            lines: one.played.length,
            updated: one.updated,
            mismatches: numbered(one.played).map(({ line, what, expected, said }) => ({ line, what, expected, said })),
          },
    ),
    ...(untried === undefined ? {} : { untried }),
  };
}

/** As servers that build read it. */
function asJunit({ tried }: AllTried): string {
  const cases = tried.map((one) => {
    const name = 'problems' in one ? one.path : one.file.tryout.tryout;
    const open = `  <testcase classname="${xml(one.path)}" name="${xml(name)}"`;
    if (!isWrong(one)) return `${open}/>`;
    const told =
      'problems' in one
        ? one.problems.map(problemLine)
        : numbered(one.played).map((mismatch) => `line ${mismatch.line}, ${mismatchInWords(mismatch)}`);
    return `${open}>\n    <failure message="${xml(told[0] ?? '')}">${xml(told.join('\n'))}</failure>\n  </testcase>`;
  });
  const head = `<testsuite name="tryouts" tests="${tried.length}" failures="${tried.filter(isWrong).length}">`;
  return ['<?xml version="1.0" encoding="UTF-8"?>', head, ...cases, '</testsuite>'].join('\n');
}

const entities: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

/** What XML cannot hold is left out. */
function xml(text: string): string {
  return text
    .replace(/[\u0000-\u0008\u000B\u000C\u000E-\u001F\uFFFE\uFFFF]|\p{Cs}/gu, '')
    .replace(/[&<>"]/g, (sign) => entities[sign] ?? sign);
}
