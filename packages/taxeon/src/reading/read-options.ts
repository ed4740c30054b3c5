/** Reading a slash command's options, and the values that the bot's own code hands over. Both are untrusted. */

import { echo } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import { notOfShape } from '../commands/kind.js';
import type { Reading, Slot } from './slots.js';

type Options = Readonly<Record<string, unknown>>;

/** Reads options as the same texts a person would type, so that both surfaces give the same errors. */
export function readOptions(options: Options, reading: Reading): MaybePromise<void> {
  return readEach(options, reading, 0, (slot, value) => {
    const typed = optionText(value);
    return typed === undefined ? notOfShape : slot.kind.read(typed, reading.context);
  });
}

/** Takes values that are typed already and checks them against their kinds. */
export function readValues(values: Options, reading: Reading): MaybePromise<void> {
  return readEach(values, reading, 0, (slot, value) => (slot.kind.accepts(value) ? value : notOfShape));
}

type ReadOne = (slot: Slot, value: unknown) => MaybePromise<unknown>;

function readEach(options: Options, reading: Reading, from: number, readOne: ReadOne): MaybePromise<void> {
  const { slots } = reading;
  for (let index = from; index < slots.length; index++) {
    const slot = slots[index] as Slot;
    const value = Object.hasOwn(options, slot.name) ? options[slot.name] : undefined;
    if (value === undefined || value === null) {
      const filled = reading.fillAbsent(slot);
      if (isThenable(filled)) return filled.then(() => readEach(options, reading, index + 1, readOne));
      continue;
    }
    const read = readOne(slot, value);
    if (isThenable(read)) {
      return read.then((settled) => {
        reading.settle(slot, settled, describe(value));
        return readEach(options, reading, index + 1, readOne);
      });
    }
    reading.settle(slot, read, describe(value));
  }
  reportUnknown(options, reading);
}

function reportUnknown(options: Options, reading: Reading): void {
  for (const name of Object.keys(options)) {
    if (!reading.slots.some((slot) => slot.name === name)) {
      reading.report({ code: 'argument.unknown', parameters: { name: echo(name) } });
    }
  }
}

/** The text a person would have typed; objects and lists have none. */
function optionText(value: unknown): string | undefined {
  if (typeof value === 'string') return value;
  return typeof value === 'number' || typeof value === 'boolean' || typeof value === 'bigint'
    ? String(value)
    : undefined;
}

function describe(value: unknown): string {
  return optionText(value) ?? (Array.isArray(value) ? 'a list' : `a ${typeof value}`);
}
