/** Stage 6: text or options into typed arguments. */
import { ownsBot } from '../access/context.js';
import { shown } from '../base/fields.js';
import { andThen, isThenable, type MaybePromise, patiently } from '../base/thenable.js';
import type { ReadingContext } from '../commands/kind.js';
import type { Attachment } from '../contract/attachment.js';
import type { Problem } from '../contract/outcome.js';
import { readOptions, readValues } from '../reading/read-options.js';
import { readText } from '../reading/read-text.js';
import { Reading, readingProblems } from '../reading/reading.js';
import type { Slot } from '../reading/slots.js';
import { fileTakingOf } from '../reading/taking.js';
import { examplesFor } from './examples.js';
import { unavailable } from './reach.js';
import type { StageInWords, Step } from './stage.js';
import type { Admitted, Heard, Read } from './state.js';
import { invalid, refused, type Stop } from './stop.js';

export interface ReadNeeds {
  /** How long the bytes of a file are waited for. */
  readonly platformPatienceMs: number;
}

export const read: Step<Admitted, Read, ReadNeeds> = {
  kind: 'step',
  name: 'read',
  // What is looked up has the layer's patience; questions have their own.
  waitsItself: true,
  take: readArguments,
  passed({ args, command: { slots }, heard }) {
    const parts = slots.all.map((slot) => `${slot.name} = ${argumentInWords(args[slot.name], slot, heard)}`);
    return parts.join(', ') || 'no arguments';
  },
};

export const readInWords: StageInWords = {
  does: 'reads the line or the options into typed arguments, and looks up who and what they name; or asks for what is missing',
  stopsWith: [
    'argument.missing',
    'argument.invalid',
    'argument.ambiguous',
    'argument.absent-member',
    'argument.extra',
    'argument.unknown',
    'input.malformed',
    'callback.failed',
    'command.unavailable',
    'waiting',
    'answer.stopped',
  ],
};

/** Hot path: bench/rows/calls. */
function readArguments(state: Admitted, needs: ReadNeeds): MaybePromise<Read | Stop> {
  const { asking, basis } = state.heard;
  const reading = beginReading(state, needs);
  if (asking !== undefined) return asking.read(state, reading);
  const pending = readInto(reading, state);
  const whole = isThenable(pending) ? finishLater(pending, reading, state) : finishReading(reading, state);
  return isThenable(whole) ? patiently(basis.clock, whole, basis.patienceMs) : whole;
}

export function finishLater(pending: PromiseLike<void>, reading: Reading, state: Admitted): PromiseLike<Read | Stop> {
  return pending.then(() => finishReading(reading, state));
}

function beginReading({ heard, command: { slots } }: Admitted, needs: ReadNeeds): Reading {
  const files = slots.attached === undefined ? none : filesFor(slots.attached, heard, needs);
  return new Reading(slots, readingContextOf(heard, files), heard.recorder !== undefined);
}

export function readInto(reading: Reading, { heard: { input }, cursor }: Admitted): MaybePromise<void> {
  const { attached } = reading.slots;
  if (cursor !== undefined) {
    const pending = readText(cursor, reading);
    if (attached === undefined) return pending;
    const files = fileTakingOf(attached);
    return isThenable(pending)
      ? pending.then(() => files.takeAll(reading, attached))
      : files.takeAll(reading, attached);
  }
  const { surface, options = {} } = input;
  return surface === 'program' ? readValues(options, reading) : readOptions(options, reading);
}

/** What was read, or what is wrong with it. */
export function finishReading(
  reading: Reading,
  { heard, command, typed, cursor }: Admitted,
): MaybePromise<Read | Stop> {
  const { tokens, notes, members } = reading;
  const problems = readingProblems(reading);
  if (tokens !== undefined) heard.recorder?.tokens.push(...tokens);
  if (problems !== undefined) {
    if (reading.isUnfindable) return refused(unavailable(command.name, 'look-up', heard.surface));
    // A line is shown to those who type one.
    return andThen(cursor === undefined ? [] : examplesFor(command, reading.context), ([example]: readonly string[]) =>
      invalid(problems as [Problem, ...Problem[]], example),
    );
  }
  const args = reading.args();
  const named = members === undefined ? args : { ...args, ...members };
  return { at: 'read', heard, command, typed, args, named, notes };
}

/** What kinds, defaults and completions may look at. */
export function readingContextOf(call: Heard, attachments: readonly Attachment[] = none): ReadingContext {
  const { caller, place, guild, platform, now, conversation, settings, input, basis } = call;
  const callers: unknown = input.locale;
  const locale = settings.settings.locale ?? (typeof callers === 'string' ? callers : basis.locale);
  const { timeZone, language } = conversation;
  return {
    call,
    caller,
    place,
    guild,
    platform,
    now,
    timeZone,
    locale,
    inEnglish: language.inEnglish,
    ownsBot: ownsBot(call),
    attachments,
  };
}

const none: readonly Attachment[] = [];

/** As handlers get them. */
function filesFor(
  attached: readonly Slot[],
  { input, basis }: Heard,
  { platformPatienceMs }: ReadNeeds,
): readonly Attachment[] {
  const files = fileTakingOf(attached);
  return input.attachments?.map((one) => files.bounded(one, basis.clock, platformPatienceMs)) ?? none;
}

/** As one would type it, where it is a value of the kind itself; for the bot's developer. */
function argumentInWords(value: unknown, slot: Pick<Slot, 'kind' | 'convert'> | undefined, heard: Heard): string {
  const kind = slot?.convert === undefined ? slot?.kind : undefined;
  if (Array.isArray(value)) return value.map((one) => argumentInWords(one, kind?.item, heard)).join(' and ');
  if (value === undefined) return 'nothing';
  if (kind?.shown !== undefined) return kind.shown(value, readingContextOf(heard));
  const { name }: { readonly name?: unknown } = Object(value);
  return typeof value === 'string' ? JSON.stringify(value) : typeof name === 'string' ? name : shown(value);
}
