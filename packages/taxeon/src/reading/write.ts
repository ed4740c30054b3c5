/** Writing the line that a person would type for values: the way back of reading. */
import type { Kind } from '../commands/kind.js';
import { Cursor } from './cursor.js';
import { isMeantFor } from './runs.js';
import type { Slot, Slots } from './slots.js';

type Values = Readonly<Record<string, unknown>>;

/**
 * @throws TypeError where a value's kind says no way to write it.
 */
export function writeLine(name: string, { positional, flags }: Slots, values: Values): string {
  const words = [name];
  for (const { slot, spelling, isSwitch } of flags?.all ?? []) {
    const value = values[slot.name];
    if (value === undefined) continue;
    if (isSwitch) words.push(value === true ? spelling : spelling.replace('--', '--no-'));
    else for (const text of textsOf(slot, value)) words.push(`${spelling}=${asToken(text, slot.kind, true)}`);
  }
  // A word that begins with a dash is no flag once the flags have ended.
  if (flags !== undefined) words.push('--');
  const skipped: Slot[] = [];
  let before: Slot | undefined;
  for (const slot of positional) {
    const value = values[slot.name];
    if (value === undefined) {
      skipped.push(slot);
      continue;
    }
    const { kind } = slot;
    const texts = textsOf(slot, value);
    const written = kind.tokens === 'rest' ? texts : tokensOf(texts, kind);
    words.push(apart(slot, parted(slot, written[0] ?? '', before), skipped), ...written.slice(1));
    before = slot;
  }
  return words.join(' ');
}

/** One token a value; a list's are parted by commas where two values could run into one: `1d, 2h`. */
function tokensOf(texts: readonly string[], kind: Kind<unknown>): readonly string[] {
  const item = kind.item?.kind;
  const comma = item !== undefined && item.tokens !== 1 ? ',' : '';
  return texts.map(
    (text, index) => asToken(text, item ?? kind, item !== undefined) + (index < texts.length - 1 ? comma : ''),
  );
}

/** Two values that would be read as one, such as `1h` and `30m`, are kept apart by quotes. */
function parted({ name, kind, absent }: Slot, text: string, before: Slot | undefined): string {
  const { tokens, goesOn } = before?.kind.item?.kind ?? before?.kind ?? {};
  if (tokens === undefined || tokens === 1 || goesOn?.(text.split(/\s/, 1)[0] ?? '') !== true) return text;
  if (kind.tokens !== 'rest' && !(kind.leavesQuoted && absent.as !== 'problem')) {
    return text.startsWith('"') ? text : inQuotes(text);
  }
  throw new TypeError(`${name} cannot be written behind ${before?.name}, which would take its first word`);
}

/** A first word that an argument left out in front of it would take is put in quotes, where that keeps it apart. */
function apart({ name, kind }: Slot, text: string, skipped: readonly Slot[]): string {
  const taker = (word: string) => skipped.find((slot) => wouldTake(slot, word));
  const inTheWay = taker(text);
  if (inTheWay === undefined) return text;
  const quoted = kind.tokens === 'rest' ? text : inQuotes(text);
  if (taker(quoted) === undefined) return quoted;
  throw new TypeError(`${name} cannot be written without ${inTheWay.name}, which would take its first word`);
}

function wouldTake({ kind }: Slot, text: string): boolean {
  const cursor = new Cursor(text, 0);
  return cursor.next() && isMeantFor(kind.item?.kind ?? kind, cursor.value(), cursor.quoted);
}

function textsOf({ name, kind }: Slot, value: unknown): readonly string[] {
  const { write } = kind.item?.kind ?? kind;
  if (write === undefined) throw new TypeError(`${name} cannot be written: its kind, ${kind.name}, has no \`write\``);
  return kind.item === undefined ? [write(value)] : (value as readonly unknown[]).map((one) => write(one));
}

/** A text as one token: bare where it reads as itself, in quotes otherwise. */
function asToken(text: string, { leavesQuoted }: Kind<unknown>, partsAtCommas: boolean): string {
  if (!leavesQuoted && !(text.length > 0 && isBare(text, partsAtCommas))) return inQuotes(text);
  return text;
}

function inQuotes(text: string): string {
  return `"${text.replace(/["\\]/g, '\\$&')}"`;
}

function isBare(text: string, partsAtCommas: boolean): boolean {
  if (partsAtCommas && text.includes(',')) return false;
  if (/^[-\u2013\u2014]/.test(text) || text.includes('\\')) return false;
  const cursor = new Cursor(text, 0);
  return cursor.next() && !cursor.quoted && cursor.start === 0 && cursor.end === text.length;
}
