/** What could stand where a person is typing a line. */
import { foundOrMade } from '../../base/bounded-map.js';
import { foldName } from '../../base/text.js';
import type { Catalogue, CompiledCommand, CompiledGroup, Entry } from '../../catalogue/catalogue.js';
import { isEntryShown } from '../../catalogue/entries.js';
import type { Kind } from '../../commands/kind.js';
import type { Problem } from '../../contract/outcome.js';
import { Cursor } from '../../reading/cursor.js';
import { readText } from '../../reading/read-text.js';
import { Reading } from '../../reading/reading.js';
import type { Flag, Slot } from '../../reading/slots.js';
import { type Partial, quotedAsNeeded, type TypedLine, typingAt } from './line.js';
import { NameIndex } from './names.js';
import {
  type CompletionView,
  isForMore,
  MOST_READ,
  namedIn,
  offeredFor,
  type Suggestion,
  suggestion,
} from './offered.js';
import { ranked } from './rank.js';

/** For a line of text: `from` is where the command's name begins, `at` where the cursor is. */
export async function completeText(
  view: CompletionView,
  text: string,
  from: number,
  at: number,
): Promise<readonly Suggestion[]> {
  const typing = typingAt(text, from, at);
  const { words, partial } = typing;
  let around: CompiledGroup | undefined;
  for (const [position, { value, end }] of words.entries()) {
    const entry: Entry | undefined = around === undefined ? view.catalogue.names.get(value) : around.names.get(value);
    if (entry === undefined) return [];
    if (entry.kind === 'command') {
      if (!view.isShown(entry)) return [];
      return completeArgument(view, entry, {
        text,
        argsFrom: end,
        typing: { words: words.slice(position + 1), partial },
      });
    }
    around = entry;
  }
  return names(view, around, partial);
}

/** Made when it is first asked for; forgotten with the catalogue. */
const indexes = new WeakMap<object, NameIndex>();

function indexOf(of: Catalogue | CompiledGroup): NameIndex {
  return foundOrMade(indexes, of, () => new NameIndex('members' in of ? of.members : of.entries));
}

function names(
  { catalogue, isShown, most, matching }: CompletionView,
  around: CompiledGroup | undefined,
  { typed, quoted, start, end }: Partial,
): Suggestion[] {
  const found: Suggestion[] = [];
  const seen = new Set<Entry>();
  if (quoted) return found;
  for (const { name, entry } of indexOf(around ?? catalogue).search(typed, matching)) {
    // An alias is offered only where its own name would not be.
    if (name !== entry.word && foldName(entry.word).startsWith(foldName(typed))) continue;
    if (seen.has(entry) || !isEntryShown(entry, isShown)) continue;
    seen.add(entry);
    const { kind, description } = entry;
    found.push({ kind, text: name, label: name, description, start, end });
    if (found.length === most) break;
  }
  return found;
}

interface ArgumentTyping {
  readonly text: string;
  /** Where the arguments begin. */
  readonly argsFrom: number;
  readonly typing: TypedLine;
}

async function completeArgument(
  view: CompletionView,
  command: CompiledCommand,
  typing: ArgumentTyping,
): Promise<readonly Suggestion[]> {
  const found: Suggestion[] = [];
  // A name of several words begins further in front.
  for (const start of namesBegun(command, typing)) found.push(...(await completeFrom(view, command, typing, start)));
  found.push(...(await completeFrom(view, command, typing, undefined)));
  return found.slice(0, view.most);
}

/** Names are not looked for further in front. */
const MOST_WORDS_BEFORE = 4;

/** Where the words in front of the cursor begin, the first one first, if an argument takes names of several words. */
function namesBegun(
  { slots }: CompiledCommand,
  { text, typing: { words, partial } }: ArgumentTyping,
): readonly number[] {
  if (partial.quoted || !slots.all.some(({ kind }) => takesNames(kind.item?.kind ?? kind))) return [];
  return words
    .slice(-MOST_WORDS_BEFORE)
    .filter(({ start, value }) => text.startsWith(value, start))
    .map(({ start }) => start);
}

function takesNames({ goesOn, suggest }: Kind<unknown>): boolean {
  return goesOn !== undefined && suggest !== undefined;
}

/** @param nameAt where the name of several words begins that is being typed */
async function completeFrom(
  view: CompletionView,
  command: CompiledCommand,
  { text, argsFrom, typing }: ArgumentTyping,
  nameAt: number | undefined,
): Promise<readonly Suggestion[]> {
  const { partial } = typing;
  const start = nameAt ?? partial.start;
  const head = text.slice(0, start);
  const reading = new Reading(command.slots, view.context, true);
  await readText(new Cursor(head, argsFrom), reading);
  // Behind what is wrong already, nothing can be right.
  if ((reading.problems ?? []).some(({ code }) => code !== 'argument.missing')) return [];

  const before = typing.words.filter((word) => word.end <= start);
  const awaiting = flagAwaiting(command, reading.problems ?? [], { words: before, partial });
  const found: Suggestion[] = [];
  const isTaken = takenArguments(view, command, head, argsFrom);
  for (const slot of awaiting === undefined ? candidates(command, reading) : [awaiting.slot]) {
    const kind = slot.kind.item?.kind ?? slot.kind;
    if (nameAt !== undefined && !takesNames(kind)) continue;
    const place = tailPlace(slot, reading, partial, text);
    const span = place ?? { start, end: partial.end };
    const typed = place === undefined && nameAt === undefined ? partial.typed : text.slice(span.start, partial.end);
    const offered = await offeredFor(view, slot, typed, reading.args(), givenIn(slot, reading, head));
    for (const one of offered.slice(0, MOST_READ)) {
      // What is typed goes on: it is not begun anew.
      if (nameAt !== undefined && !foldName(one.value).startsWith(foldName(typed))) continue;
      const written = await writtenAs(slot, one.value, partial.quoted, (text) => isTaken(slot, text, span.start));
      if (written === undefined) continue;
      found.push(suggestion(one, written, span));
      if (found.length === view.most) return found;
    }
  }
  if (nameAt === undefined && awaiting === undefined && !partial.quoted)
    found.push(...flagNames(command, reading, typing));
  return found.slice(0, view.most);
}

/** As it is to be typed there: a name of several words without quotes where it reads so. */
async function writtenAs(
  { kind }: Slot,
  value: string,
  quoted: boolean,
  isTaken: (text: string) => Promise<boolean>,
): Promise<string | undefined> {
  const inQuotes = quotedAsNeeded(value, quoted);
  const isName =
    !quoted &&
    inQuotes !== value &&
    takesNames(kind.item?.kind ?? kind) &&
    /^[\p{L}\p{N}][\p{L}\p{N} :-]*$/u.test(value);
  const forms = kind.tokens === 'rest' ? [value] : isName ? [value, inQuotes] : [inQuotes];
  for (const text of forms) if (await isTaken(text)) return text;
  return undefined;
}

/** The values that a list has already, as they were typed. */
function givenIn(slot: Slot, reading: Reading, head: string): ReadonlySet<string> {
  if (slot.kind.item === undefined) return new Set();
  const own = (reading.tokens ?? []).filter(({ takenBy, name }) => takenBy === 'argument' && name === slot.name);
  const texts = own.flatMap(({ span }) => head.slice(span.start, span.end).split(','));
  return new Set(texts.map((text) => foldName(text.trim().replace(/^"|"$/g, ''))));
}

/** The positional arguments that the next word could be for: optional ones, up to the first that is required. */
function candidates({ slots }: CompiledCommand, reading: Reading): readonly Slot[] {
  const takenNames = new Set(
    (reading.tokens ?? []).flatMap(({ takenBy, name }) => (takenBy === 'argument' ? [name] : [])),
  );
  const last = slots.positional.findLastIndex(({ name }) => takenNames.has(name));
  const current = slots.positional[last];
  const goesOn = current !== undefined && typeof current.kind.tokens === 'string' && !isFull(current, reading);
  const found: Slot[] = [];
  for (const slot of slots.positional.slice(goesOn ? last : last + 1)) {
    found.push(slot);
    const isRequired = slot.absent.as === 'problem' && slot !== current;
    if (isRequired || slot.kind.tokens === 'rest') break;
  }
  return found;
}

function isFull({ kind, index }: Slot, { values }: Reading): boolean {
  const value = values[index];
  return kind.item !== undefined && Array.isArray(value) && value.length >= kind.item.max;
}

/** A tail is one value from its first word on. */
function tailPlace(slot: Slot, reading: Reading, partial: Partial, text: string) {
  if (slot.kind.tokens !== 'rest') return undefined;
  const begun = reading.tokens?.find(({ takenBy, name }) => takenBy === 'argument' && name === slot.name);
  return { start: begun?.span.start ?? partial.start, end: Math.max(partial.end, text.trimEnd().length) };
}

/** The flag whose value is being typed: it stands right before the cursor, and its value is missing. */
function flagAwaiting(
  { slots }: CompiledCommand,
  problems: readonly Problem[],
  { words }: TypedLine,
): Flag | undefined {
  const last = words.at(-1);
  if (last === undefined) return undefined;
  return slots.flags?.all.find(({ slot, isSwitch }) => {
    if (isSwitch) return false;
    return problems.some(
      (problem) =>
        problem.code === 'argument.missing' &&
        problem.parameters.argument === slot.name &&
        problem.span !== undefined &&
        problem.span.start <= last.start &&
        problem.span.end >= last.end,
    );
  });
}

/** Whether a value, typed where the cursor is, is taken by an argument without a problem. */
function takenArguments(view: CompletionView, command: CompiledCommand, head: string, argsFrom: number) {
  return async (slot: Slot, written: string, start: number): Promise<boolean> => {
    const reading = new Reading(command.slots, view.context, true);
    await readText(new Cursor(head.slice(0, start) + written, argsFrom), reading);
    if ((reading.problems ?? []).some((problem) => !isLater(problem, start + written.length))) return false;
    if (!(await view.mayName(command, slot, namedIn(reading, slot)))) return false;
    const flag = command.slots.flags?.all.some((one) => one.slot === slot) === true;
    return (
      flag ||
      reading.tokens?.some(
        ({ takenBy, name, span }) => takenBy === 'argument' && name === slot.name && span.end >= start + written.length,
      ) === true
    );
  };
}

/** What is missing behind the cursor is still to come. */
function isLater(problem: Problem, end: number): boolean {
  const { code, span } = problem;
  if (isForMore(problem)) return true;
  return code === 'argument.missing' && (span === undefined || span.start >= end);
}

function flagNames({ slots }: CompiledCommand, reading: Reading, { words, partial }: TypedLine): Suggestion[] {
  const { flags } = slots;
  const { typed, start, end } = partial;
  if (flags === undefined || hasEnded(slots.positional, reading, words)) return [];
  if (typed !== '' && !/^[-–—]/.test(typed)) return [];
  const given = new Set(words.map(({ value }) => foldName(value.replace(/=.*$/s, ''))));
  const open = flags.all.filter(({ slot, spelling }) => slot.kind.tokens === 'many' || !given.has(foldName(spelling)));
  const offered = open.map(({ spelling, slot }) => ({ value: spelling, description: slot.description ?? '' }));
  return ranked(offered, typed.replace(/^(?:--|[–—])/, '--')).map(({ value, description }) => ({
    kind: 'flag',
    text: value,
    label: value,
    description: description === '' ? undefined : description,
    start,
    end,
  }));
}

/** Behind `--`, or in the tail, a dash is text. */
function hasEnded(positional: readonly Slot[], reading: Reading, words: TypedLine['words']): boolean {
  if (words.some(({ value }) => value === '--')) return true;
  const tail = positional.find(({ kind }) => kind.tokens === 'rest');
  return (
    tail !== undefined &&
    reading.tokens?.some(({ name, takenBy }) => takenBy === 'argument' && name === tail.name) === true
  );
}
