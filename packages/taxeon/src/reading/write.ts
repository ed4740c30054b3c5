/** Writing the line that a person would type for values: the way back of reading. */
import { isThenable } from '../base/thenable.js';
import { Apart, isApart, isMisread, isOfForm, isReadAs, type Kind, notOfShape } from '../commands/kind.js';
import type { Directory } from '../contract/platform.js';
import { asToken } from './as-token.js';
import { nowhere, ofAnyText } from './by-shape.js';
import { Cursor } from './cursor.js';
import { readText } from './read-text.js';
import { Reading } from './reading.js';
import { type Slot, type Slots, slotsWith } from './slots.js';

type WrittenValues = Readonly<Record<string, unknown>>;

/**
 * The line is read back before it is given: plain where it can be, then with the flags ended and with quotes around all
 * values.
 *
 * @throws TypeError where a value's kind says no way to write it, or no line reads as these values.
 */
export function writeLine(name: string, slots: Slots, values: WrittenValues, directory?: Directory): string {
  const texts = new Map<string, readonly string[]>();
  for (const slot of slots.all) {
    const value = values[slot.name];
    if (value !== undefined) texts.set(slot.name, writtenTexts(slot, value, directory));
  }
  for (const style of styles) {
    const line = writtenLine(slots, texts, style);
    if (readsBack(line, slots, texts)) return `${name} ${line}`.trimEnd();
  }
  throw new TypeError(`${name} cannot be written with these values: no line reads as them`);
}

interface Style {
  /** A word that begins with a dash is no flag once the flags have ended. */
  readonly endsFlags: boolean;
  readonly quotes: boolean;
}

const styles: readonly Style[] = [
  { endsFlags: false, quotes: false },
  { endsFlags: true, quotes: false },
  { endsFlags: false, quotes: true },
  { endsFlags: true, quotes: true },
];

type Texts = ReadonlyMap<string, readonly string[]>;

function writtenLine({ positional, flags }: Slots, texts: Texts, { endsFlags, quotes }: Style): string {
  const words: string[] = [];
  for (const { slot, spelling, isSwitch } of flags?.all ?? []) {
    const given = texts.get(slot.name);
    if (given === undefined) continue;
    if (isSwitch) words.push(given[0] === 'yes' ? spelling : spelling.replace('--', '--no-'));
    else words.push(...given.map((text) => `${spelling}=${asToken(text, slot, quotes)}`));
  }
  if (flags !== undefined && endsFlags) words.push('--');
  for (const slot of positional) {
    const given = texts.get(slot.name);
    if (given === undefined) continue;
    const written = slot.kind.tokens === 'rest' ? given : given.map((text) => asToken(text, slot, quotes));
    words.push(written.join(slot.kind.item?.kind.tokens === 1 ? ' ' : ', '));
  }
  return words.join(' ');
}

/** Whether each argument gets its own text, and reads it as the value that it was written for. */
function readsBack(line: string, slots: Slots, texts: Texts): boolean {
  const reading = new Reading(slotsWith(slots, asWritten), nowhere, false);
  if (isThenable(readText(new Cursor(line, 0), reading)) || reading.problems !== undefined) return false;
  return slots.all.every(({ name, index, kind }) => {
    const read = reading.values[index];
    const taken = read === undefined ? undefined : kind.item === undefined ? [read] : (read as readonly unknown[]);
    return JSON.stringify(taken) === JSON.stringify(texts.get(name));
  });
}

/** The slot with a kind that gives the text it takes, as the kind itself would write its value; nobody is looked up. */
function asWritten({ kind, absent }: Slot): Pick<Slot, 'kind' | 'absent'> {
  return { kind: giving(kind), absent: absent.as === 'problem' ? absent : { as: 'undefined' } };
}

function giving(kind: Kind<unknown>): Kind<unknown> {
  if (kind.item !== undefined)
    return { ...kind, item: { ...kind.item, kind: giving(kind.item.kind), convert: undefined } };
  const { traits, write } = kind;
  if (traits?.readsAlone !== true && traits?.boundsMove !== true) return ofAnyText(kind);
  return {
    ...kind,
    read(typed, context) {
      const read = kind.read(typed, context);
      if (isApart(read)) return isMisread(read.value) ? read : new Apart(write?.(read.value), [], read.isUsual);
      if (!isMisread(read)) return write?.(isReadAs(read) ? read.value : read) ?? notOfShape;
      // Whether a moment is too late depends on when it is read.
      return isOfForm(read) && traits.boundsMove ? typed : read;
    },
  };
}

function writtenTexts({ name, kind }: Slot, value: unknown, directory: Directory | undefined): readonly string[] {
  const { write } = kind.item?.kind ?? kind;
  if (write === undefined) throw new TypeError(`${name} cannot be written: its kind, ${kind.name}, has no \`write\``);
  return kind.item === undefined
    ? [write(value, directory)]
    : (value as readonly unknown[]).map((one) => write(one, directory));
}
