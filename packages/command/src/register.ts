/** `taxeon register`: the difference to what a platform holds, and carrying it out. */

import { readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import type { RegistrationConfig } from '@taxeon/testing';
import colors from 'picocolors';
import { durationInWords, systemClock } from 'taxeon';
import { isPlatformError, visibleText } from 'taxeon/platform';
import { problemInWords } from 'taxeon/queries';
import {
  type Difference,
  type DifferenceEntry,
  differenceTo,
  manifestOf,
  type Registered,
  RegistrationError,
  type RegistrationStep,
  register,
  type ScopeDifference,
  scopeName,
  scopesNamed,
} from 'taxeon/registration';
import { errorMessage, UsageError } from './errors.js';
import { printJson } from './json.js';
import { openForRegistering } from './open.js';
import { print } from './print.js';
import { alignedLines, columnWidths } from './table.js';
import { padEnd, terminalWidth, wrap } from './terminal.js';

export interface RegisterCommandOptions {
  readonly now: boolean;
  readonly removeLeftOver: boolean;
  readonly scope?: readonly string[];
  readonly aliases: boolean;
  readonly manifest: boolean;
  readonly json: boolean;
  readonly config?: string;
  readonly expect?: 'same';
}

export async function registerCommands(options: RegisterCommandOptions): Promise<void> {
  if (options.removeLeftOver && !options.now) throw new UsageError('--remove-left-over goes with --now.');
  const { layer, registration } = await openForRegistering(options.config, systemClock);
  const manifest = manifestOf(layer, { aliases: options.aliases ? 'registered' : 'left-out' });
  if (options.manifest) return printJson(manifest);
  const credential = credentialOf(registration);
  try {
    const registrar = await registration.open({ credential, clock: systemClock });
    const scopes = options.scope?.flatMap((name) => scopesNamed(layer, name, registrar.name));
    const choice = scopes === undefined ? {} : { scopes };
    const difference = await differenceTo(manifest, registrar, choice);
    show(difference, options, registration);
    if (difference.problems.length > 0) process.exitCode = 1;
    if (options.expect === 'same') await expectSameDifference(difference);
    if (!isCarriedOut(options, difference)) return;
    const onProgress = options.json ? undefined : (step: RegistrationStep) => print(stepLine(step));
    const done = await register(manifest, registrar, {
      ...choice,
      removeLeftOver: options.removeLeftOver,
      ...(onProgress === undefined ? {} : { onProgress }),
    });
    if (options.json) return printJson({ ...difference, registered: done });
    for (const line of doneLines(done, difference)) print(line);
  } catch (error) {
    if (isPlatformError(error) || error instanceof RegistrationError) {
      throw new UsageError(errorMessage(error).replaceAll(credential, '[left out]'));
    }
    throw new UsageError(`Registering failed: ${errorMessage(error).replaceAll(credential, '[left out]')}`);
  }
}

async function expectSameDifference({ scopes }: Difference): Promise<void> {
  const others = scopes.flatMap(({ scope, entries }) =>
    entries
      .filter(({ state }) => state !== 'same' && state !== 'foreign')
      .map(({ state, name }) => `${scopeName(scope)}: ${name} is ${state}; expected the same as declared`),
  );
  if (others.length === 0) return;
  const { failExpectation } = await import('./expect.js');
  failExpectation(others);
}

function isCarriedOut({ now }: RegisterCommandOptions, { problems }: Difference): boolean {
  return now && problems.length === 0;
}

function show(difference: Difference, options: RegisterCommandOptions, { keptIn }: RegistrationConfig): void {
  if (options.json) {
    // What is carried out is told with what came of it, in one object.
    if (!isCarriedOut(options, difference)) printJson(difference);
    return;
  }
  for (const line of differenceLines(difference, options.now)) print(line);
  if (keptIn === undefined) return;
  const where = wrap(`What this platform holds is kept in ${fromHome(keptIn)}`, terminalWidth() - 2);
  print(`${where.map((part) => `  ${colors.dim(part)}`).join('\n')}\n`);
}

function fromHome(path: string): string {
  return path.startsWith(homedir()) ? `~${path.slice(homedir().length)}` : path;
}

/** From the environment, or from a file that the environment names; never from the command line. */
function credentialOf({ credential: name }: RegistrationConfig): string {
  const value = process.env[name];
  if (value !== undefined && value !== '') return value;
  const path = process.env[`${name}_FILE`];
  if (path === undefined || path === '') {
    throw new UsageError(
      `Set ${name} to the credential that the platform gave the bot, or ${name}_FILE to a file that holds it.`,
    );
  }
  try {
    const read = readFileSync(path, 'utf8').trim();
    if (read !== '') return read;
  } catch {
    throw new UsageError(`The file that ${name}_FILE names does not read; name one that holds the credential.`);
  }
  throw new UsageError(`The file that ${name}_FILE names is empty; write the credential into it.`);
}

// A difference as a person decides on it.
function differenceLines({ scopes, problems, warnings }: Difference, now: boolean): string[] {
  const rows = scopes.flatMap(({ entries }) => entries.map(({ state, name }) => [words[state], name]));
  const widths = columnWidths([...rows, ['', '']]);
  const lines = ['', ...scopes.flatMap((scope) => scopeLines(scope, widths))];
  for (const warning of warnings) lines.push(`  Please note: ${warning}`);
  for (const problem of problems) lines.push(`  ${colors.bold(problem.scope)}: ${problemInWords(problem)}`);
  if (warnings.length + problems.length > 0) lines.push('');
  return [...lines, ...sentenceLines(summary(scopes, problems.length > 0, now)), ''];
}

function scopeLines({ scope, delayMs, entries }: ScopeDifference, widths: readonly number[]): string[] {
  const seen = delayMs === 0 ? 'seen at once' : `seen after about ${durationInWords(delayMs)}`;
  const same = entries.filter(({ state }) => state === 'same').map(({ name }) => name);
  const lines = entries.flatMap((entry) => entryLines(entry, widths));
  const [stateWidth = 0] = widths;
  for (const [index, names] of wrap(same.join(', '), terminalWidth() - stateWidth - 6).entries()) {
    if (same.length > 0) lines.push(colors.dim(`    ${(index === 0 ? words.same : '').padEnd(stateWidth)}  ${names}`));
  }
  if (lines.length === 0) lines.push(colors.dim('    Nothing is declared here, and nothing is there.'));
  return [`  ${colors.bold(scopeName(scope))}${colors.dim(`, ${seen}`)}`, ...lines, ''];
}

/** What the platform has, compared with what is declared. */
const words: Readonly<Record<DifferenceEntry['state'], string>> = {
  lacking: 'lacking',
  differs: 'differs',
  leftOver: 'left over',
  same: 'same',
  foreign: 'foreign',
};

function entryLines(entry: DifferenceEntry, [stateWidth = 0, nameWidth = 0]: readonly number[]): string[] {
  const begin = `    ${words[entry.state].padEnd(stateWidth)}  ${padEnd(visibleText(entry.name), nameWidth)}  `;
  const width = terminalWidth() - begin.length;
  const hanging = (lines: readonly string[], paint: (line: string) => string) =>
    lines.map((line, index) => paint(index === 0 ? begin + line : ' '.repeat(begin.length) + line));
  switch (entry.state) {
    case 'lacking':
      return hanging(wrap(visibleText(entry.form.description), width), colors.dim);
    case 'differs': {
      const rows = entry.fields.map(({ field, registered, declared }) => [
        field.replace('arguments.properties.', ''),
        shownValue(registered),
        shownValue(declared),
      ]);
      const [head = '', ...lines] = alignedLines([['field', 'registered', 'declared'], ...rows], { width });
      return hanging([colors.dim(head), ...lines], (line) => line);
    }
    case 'leftOver':
      return [`${begin}${colors.dim('not declared any more')}`];
    case 'foreign':
      return hanging(wrap(`registered by ${visibleText(entry.held.by)}, and left alone`, width), colors.dim);
    case 'same':
      return [];
  }
}

const LONGEST_VALUE = 26;

function shownValue(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length <= LONGEST_VALUE ? text : `${text.slice(0, LONGEST_VALUE - 1)}…`;
}

function sentenceLines(text: string): string[] {
  return text.split('\n').flatMap((line) => wrap(line, terminalWidth() - 2).map((part) => `  ${part}`));
}

function summary(scopes: readonly ScopeDifference[], isTooMuch: boolean, now: boolean): string {
  if (isTooMuch) return 'The platform would not take this, so nothing was registered. Mend it first.';
  const all = scopes.flatMap(({ entries }) => entries);
  const number = (state: DifferenceEntry['state']) => all.filter((entry) => entry.state === state).length;
  const [lacking, differs, leftOver, same] = [number('lacking'), number('differs'), number('leftOver'), number('same')];
  const declared = lacking + differs + same;
  const more = leftOver === 0 ? '' : `; ${leftOver} more ${leftOver === 1 ? 'is' : 'are'} left over`;
  const where = scopes.length > 1 ? ` in ${scopes.length} scopes` : '';
  if (lacking + differs === 0) {
    return leftOver === 0
      ? `The platform holds ${allDeclared(declared)}${where} as declared.`
      : `The platform holds ${allDeclared(declared)}${where} as declared${more}.${now ? '' : ` ${colors.bold('taxeon register --now --remove-left-over')} removes what is left over.`}`;
  }
  const told = `Of ${declared} declared ${declared === 1 ? 'command' : 'commands'}${where} the platform holds ${same} as declared, ${differs} differently, ${lacking} not at all${more}.`;
  return now ? told : `${told}\nOnly looked at: ${colors.bold('taxeon register --now')} registers.`;
}

function allDeclared(declared: number): string {
  return declared === 1 ? 'the one declared command' : `all ${declared} declared commands`;
}

/** What the platform holds once it is done. */
function doneLines({ created, updated, removed, kept, left }: Registered, { scopes }: Difference): string[] {
  const declared = scopes
    .flatMap(({ entries }) => entries)
    .filter(({ state }) => state === 'lacking' || state === 'differs' || state === 'same').length;
  const sentences = [`The platform now holds ${allDeclared(declared)}.`];
  if (created > 0) sentences.push(`${created} ${created === 1 ? 'is' : 'are'} new there.`);
  if (updated > 0) sentences.push(`${updated} ${updated === 1 ? 'was' : 'were'} brought up to date.`);
  if (removed > 0) sentences.push(`${removed} left over ${removed === 1 ? 'was' : 'were'} removed.`);
  if (kept > 0) sentences.push(`${kept} left over ${kept === 1 ? 'was' : 'were'} kept.`);
  const later = left.map(
    ({ scope, name, does, at }) =>
      `Left to do from ${new Date(at).toISOString().slice(0, 16).replace('T', ' ')} UTC on: ${does} ${name} in ${scope}. Register again then.`,
  );
  return ['', ...sentenceLines([sentences.join(' '), ...later].join('\n')), ''];
}

function stepLine({ scope, done, name, note }: RegistrationStep): string {
  return `    ${colors.dim(`${scope}:`)} ${stepInWords({ done, name, note })}`;
}

function stepInWords({ done, name, note }: Omit<RegistrationStep, 'scope'>): string {
  switch (done) {
    case 'created':
      return `${name} is registered`;
    case 'updated':
      return `${name} is as declared now`;
    case 'removed':
      return `${name} is removed`;
    case 'kept':
      return `${name} is kept: ${note}`;
    case 'waiting':
      return note;
  }
}
