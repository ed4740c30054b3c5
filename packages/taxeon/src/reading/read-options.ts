/** Reading a slash command's options, and the values that the bot's own code hands over. Both are untrusted. */
import { nearNames } from '../base/near.js';
import { echoText, foldName, inDigitsAlone } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { isMisread, type ListItem, notOfShape } from '../commands/kind.js';
import { optionReader } from './reader.js';
import type { Reading } from './reading.js';
import type { Slot } from './slots.js';
import { listTakingOf } from './taking.js';

type Options = Readonly<Record<string, unknown>>;

/** Reads options as the same texts a person would type, so that both surfaces give the same errors. */
export function readOptions(options: Options, reading: Reading): MaybePromise<void> {
  return readEach(options, reading, 0, readOption);
}

/** Takes values that are typed already and checks them against their kinds. */
export function readValues(values: Options, reading: Reading): MaybePromise<void> {
  return readEach(values, reading, 0, readValue);
}

type ReadOne = (reading: Reading, slot: Slot, value: unknown) => PromiseLike<void> | undefined;

function readEach(options: Options, reading: Reading, from: number, readOne: ReadOne): MaybePromise<void> {
  const { all } = reading.slots;
  for (let index = from; index < all.length; index++) {
    const slot = all[index] as Slot;
    const value = Object.hasOwn(options, slot.name) ? options[slot.name] : undefined;
    const isAbsent = value === undefined || value === null || (value === '' && slot.kind.tokens === 'rest');
    const pending = isAbsent ? reading.fillAbsent(slot) : readOne(reading, slot, value);
    if (pending !== undefined) return pending.then(() => readEach(options, reading, index + 1, readOne));
  }
  reportUnknownOptions(options, reading);
}

function readOption(reading: Reading, slot: Slot, value: unknown): PromiseLike<void> | undefined {
  if (slot.kind.tokens === 'many') return readListOption(reading, slot, value);
  const typed = optionText(value);
  return putOption(
    reading,
    slot,
    typed === undefined ? notOfShape : optionReader(slot.reader).read(typed, reading.context),
    value,
  );
}

function readListOption(reading: Reading, slot: Slot, value: unknown): PromiseLike<void> | undefined {
  if (!Array.isArray(value)) {
    const typed = optionText(value);
    return typed === undefined
      ? putOption(reading, slot, notOfShape, value)
      : listTakingOf(slot).readText(typed, reading, slot);
  }
  if (value.length === 0) return reading.fillAbsent(slot);
  const texts: string[] = [];
  for (const one of value) {
    const typed = optionText(one);
    if (typed === undefined) return putOption(reading, slot, notOfShape, value);
    // Of too many, one more than there may be is enough to say so.
    if (texts.push(typed) > (slot.kind.item as ListItem).max) break;
  }
  return listTakingOf(slot).readTexts(texts, reading, slot);
}

function readValue(reading: Reading, slot: Slot, value: unknown): PromiseLike<void> | undefined {
  return putOption(reading, slot, slot.kind.take(value, reading.context), value);
}

function putOption(
  reading: Reading,
  slot: Slot,
  read: MaybePromise<unknown>,
  value: unknown,
): PromiseLike<void> | undefined {
  if (isThenable(read)) return read.then((settled) => reading.accept(slot, settled, describe(value), -1, -1));
  // What was given is told only where it is wrong.
  const typed = isMisread(read) || slot.convert !== undefined ? describe(value) : '';
  return reading.accept(slot, read, typed, -1, -1);
}

function reportUnknownOptions(options: Options, reading: Reading): void {
  const { all } = reading.slots;
  for (const name in options) {
    if (all.some((slot) => slot.name === name) || !Object.hasOwn(options, name)) continue;
    const near = nearNames(
      foldName(name),
      all.map((slot) => slot.name),
    );
    reading.report({ code: 'argument.unknown', parameters: { name: echoText(name), near } });
  }
}

/** The text a person would have typed; objects and lists have none. */
function optionText(value: unknown): string | undefined {
  if (typeof value === 'string') return value;
  if (typeof value === 'number') return inDigitsAlone(value);
  return typeof value === 'boolean' || typeof value === 'bigint' ? String(value) : undefined;
}

function describe(value: unknown): string {
  return optionText(value) ?? (Array.isArray(value) ? 'a list' : `a ${typeof value}`);
}
