/** A difference as a person decides on it. */
import colors from 'picocolors';
import { durationInWords } from '../base/time.js';
import { scopeName } from '../contract/registrar.js';
import type { Difference, DifferenceEntry, FieldChange, ScopeDifference } from '../registration/difference.js';
import type { RegistrationStep } from '../registration/register.js';

const WIDTH = 14;

export function differenceLines({ scopes, problems, warnings }: Difference, now: boolean): string[] {
  const lines = ['', ...scopes.flatMap(scopeLines)];
  for (const warning of warnings) lines.push(`  ${colors.yellow('! ')}${warning}`);
  for (const { scope, command, field, problem } of problems) {
    lines.push(`  ${colors.red('✗ ')}${scope} › ${command} › ${field}: ${problem}`);
  }
  if (warnings.length + problems.length > 0) lines.push('');
  return [...lines, `  ${summary(scopes, problems.length > 0, now)}`, ''];
}

function scopeLines({ scope, delayMs, entries }: ScopeDifference): string[] {
  const seen = delayMs === 0 ? 'seen at once' : `seen after about ${durationInWords(delayMs)}`;
  const same = entries.filter(({ state }) => state === 'same').map(({ name }) => name);
  const lines = entries.flatMap(entryLines);
  if (same.length > 0) lines.push(`    ${colors.dim(`=  the same: ${same.join(', ')}`)}`);
  if (lines.length === 0) lines.push(colors.dim('    nothing, and nothing is wanted'));
  return [`  ${colors.bold(scopeName(scope))}${colors.dim(`, ${seen}`)}`, ...lines, ''];
}

function entryLines(entry: DifferenceEntry): string[] {
  const name = entry.name.padEnd(WIDTH);
  switch (entry.state) {
    case 'added':
      return [`    ${colors.green('+')}  ${name} ${entry.form.description}`];
    case 'changed':
      return entry.fields.map(
        (change, index) =>
          `    ${colors.yellow('~')}  ${index === 0 ? name : ' '.repeat(WIDTH)} ${fieldInWords(change)}`,
      );
    case 'absent':
      return [`    ${colors.red('−')}  ${name} ${colors.dim('not declared any more; goes with --remove-absent')}`];
    case 'foreign':
      return [`    ${colors.dim('·')}  ${name} ${colors.dim(`registered by ${entry.held.by}; left alone`)}`];
    case 'same':
      return [];
  }
}

function fieldInWords({ field, before, after }: FieldChange): string {
  if (before === undefined) return `${field}: ${colors.green(valueInWords(after))} ${colors.dim('(new)')}`;
  if (after === undefined) return `${field}: ${colors.red(valueInWords(before))} ${colors.dim('(gone)')}`;
  return `${field}: ${colors.red(valueInWords(before))} → ${colors.green(valueInWords(after))}`;
}

const LONGEST_VALUE = 60;

function valueInWords(value: unknown): string {
  const text = JSON.stringify(value) ?? 'nothing';
  return text.length <= LONGEST_VALUE ? text : `${text.slice(0, LONGEST_VALUE - 1)}…`;
}

function summary(scopes: readonly ScopeDifference[], isTooMuch: boolean, now: boolean): string {
  if (isTooMuch) return colors.red('The platform would not take this. Mend it first; nothing was registered.');
  const all = scopes.flatMap(({ entries }) => entries);
  const count = (state: DifferenceEntry['state']) => all.filter((entry) => entry.state === state).length;
  const [added, changed, absent] = [count('added'), count('changed'), count('absent')];
  if (added + changed + absent === 0) return colors.green('✓ Nothing to do: the platform holds what is declared.');
  const told = `${added} to add, ${changed} to change, ${absent} not declared any more.`;
  return now ? told : `${told} Nothing was done: ${colors.bold('taxeon register --now')} does it.`;
}

const signs = { added: '+', changed: '~', removed: '−', kept: '=', waiting: '…' };

export function stepLine({ scope, done, name, note }: RegistrationStep): string {
  const what =
    done === 'waiting' ? `the platform asks to wait ${note}` : `${name} ${done}${note === '' ? '' : `: ${note}`}`;
  return `    ${signs[done]}  ${colors.dim(`${scope}:`)} ${what}`;
}
