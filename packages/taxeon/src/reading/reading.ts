/** What reading one input has found so far. */
import { markOf } from '../base/mark.js';
import { echoText } from '../base/text.js';
import { atOnce, isThenable, type MaybePromise } from '../base/thenable.js';
import { type DefaultContext, isUnfindable } from '../commands/arg.js';
import type { Apart, Capped, Misread, ReadAs, ReadingContext } from '../commands/kind.js';
import type { CodeParameters } from '../contract/codes.js';
import type { Amount } from '../contract/expectation.js';
import type { Problem } from '../contract/outcome.js';
import type { Span } from '../contract/span.js';
import type { ReadToken } from '../contract/trace.js';
import type { Cursor } from './cursor.js';
import type { Slot, Slots } from './slots.js';

/** A piece of text on its way to a slot; `start` is -1 where it comes from no line. */
export interface Piece {
  readonly typed: string;
  readonly start: number;
  readonly end: number;
  /** It was read on the way, since that tells how many words it is. */
  readonly isRead: boolean;
  /** What the kind made of it, where it was read. */
  readonly read: unknown;
}

/** More problems help nobody. */
const MOST_PROBLEMS = 20;

/** What the caller is told of an argument that was read: it was lowered to its maximum, or could have been meant otherwise. */
export interface Note {
  readonly argument: string;
  /** What stood there. */
  readonly read: string;
  readonly because: 'lowered' | 'read-as';
  /** What was made of it. */
  readonly to: Amount;
}

export class Reading {
  /** By the slots' index. */
  readonly values: unknown[];
  problems: Problem[] | undefined = undefined;
  notes: Note[] | undefined = undefined;
  /** Whom arguments name whose values are mapped to something else. */
  members: Record<string, unknown> | undefined = undefined;
  /** Recorded only for a trace. */
  readonly tokens: ReadToken[] | undefined;
  /** Nothing more of the line can be made out. */
  broken = false;
  /** Something was named that the platform has no way to look up: that is nobody's mistake. */
  isUnfindable = false;
  /** The line that is read, where there is one. */
  line: string | undefined = undefined;
  /** The argument that last left a word to others, and where that stands. */
  left: { readonly slot: Slot; readonly start: number } | undefined = undefined;

  constructor(
    readonly slots: Slots,
    readonly context: ReadingContext,
    traced: boolean,
  ) {
    this.values = new Array(slots.all.length);
    this.tokens = traced ? [] : undefined;
  }

  /**
   * Takes what a kind made of a text; `start` and `end` are its place in the line, where it has one.
   *
   * @param pieces those of the values of a list
   */
  accept(
    slot: Slot,
    read: unknown,
    typed: string,
    start: number,
    end: number,
    pieces?: readonly Piece[],
  ): PromiseLike<void> | undefined {
    const value = this.resolve(slot, read, typed, start, end);
    if (markOf(value) !== 'misread') return this.#fill(slot, value, { typed, start, end }, pieces);
    this.put(slot, undefined);
    return undefined;
  }

  /** Takes a value of the kind, before `.map`, which may refuse it, or take its time. */
  #fill(slot: Slot, value: unknown, place: TypedAt, pieces?: readonly Piece[]): PromiseLike<void> | undefined {
    const { kind, convert } = slot;
    if (slot.mapsMembers) {
      this.members ??= {};
      this.members[slot.name] = value;
    }
    const each = kind.item?.convert;
    if (each === undefined || !Array.isArray(value)) return this.#putMapped(slot, convert, value, place);
    const mapped = mapEach(value, each, (made, index) => this.#mapped(slot, made, pieces?.[index] ?? place));
    if (isThenable(mapped)) return mapped.then((items) => this.#putMapped(slot, convert, items, place));
    return this.#putMapped(slot, convert, mapped, place);
  }

  #putMapped(slot: Slot, convert: Slot['convert'], value: unknown, place: TypedAt): PromiseLike<void> | undefined {
    const made = convert === undefined || value === refusedValue ? value : convert(value);
    if (isThenable(made)) return made.then((later) => this.put(slot, putIn(this.#mapped(slot, later, place))));
    this.put(slot, putIn(this.#mapped(slot, made, place)));
    return undefined;
  }

  /** What `.map` made of a value, or that it refused it, which is told. */
  #mapped(slot: Slot, made: unknown, { typed, start, end }: TypedAt): unknown {
    if (markOf(made) !== 'misread') return made;
    this.report(misreadProblem(slot, made as Misread, typed, start < 0 ? undefined : { start, end }, this.context));
    return refusedValue;
  }

  put(slot: Slot, value: unknown): void {
    this.values[slot.index] = value;
  }

  /** The value that was read, with what is to be told of it noted; a misread where there is none. */
  resolve(slot: Slot, read: unknown, typed: string, start: number, end: number): unknown {
    switch (markOf(read)) {
      case undefined:
        return read;
      case 'apart':
        return this.resolve(slot, (read as Apart).value, typed, start, end);
      case 'capped': {
        const { value, to } = read as Capped;
        this.#tell(slot, typed, 'lowered', to);
        return value;
      }
      case 'read-as': {
        const { value, as } = read as ReadAs;
        this.#tell(slot, typed, 'read-as', as);
        return this.resolve(slot, value, typed, start, end);
      }
      case 'misread':
        this.isUnfindable ||= isUnfindable(slot, this.context.platform?.directory);
        // What is near takes a while to find, and more problems are not kept.
        if (!this.isFull)
          this.report(
            misreadProblem(slot, read as Misread, typed, start < 0 ? undefined : { start, end }, this.context),
          );
    }
    return read;
  }

  #tell({ name }: Slot, typed: string, because: Note['because'], to: Amount): void {
    this.notes ??= [];
    if (this.notes.length < MOST_PROBLEMS) this.notes.push({ argument: name, read: echoText(typed), because, to });
  }

  /** Fills a slot for which nothing was given. */
  fillAbsent(slot: Slot): PromiseLike<void> | undefined {
    const { absent } = slot;
    switch (absent.as) {
      case 'undefined':
        this.put(slot, undefined);
        return undefined;
      case 'value':
        return this.#fill(slot, absent.value, nowhereTyped);
      case 'computed':
        return this.#fillComputed(slot, absent.from(this.context satisfies DefaultContext));
      case 'problem':
        return this.#tellMissing(slot);
    }
  }

  /** With what there is to choose from, which has to be asked for. */
  #tellMissing(slot: Slot): PromiseLike<void> | undefined {
    const pending = slot.kind.expectedNow === undefined ? undefined : slot.kind.prepare?.('', this.context);
    if (isThenable(pending)) return pending.then(() => this.missing(slot));
    this.missing(slot);
    return undefined;
  }

  missing(slot: Slot, span?: Span): void {
    this.put(slot, undefined);
    const expected = slot.kind.expectedNow?.(this.context) ?? slot.kind.expected;
    const parameters = { argument: slot.name, expected };
    this.report(problemAt({ code: 'argument.missing', parameters }, span));
  }

  report(problem: Problem): void {
    if (this.problems === undefined) this.problems = [problem];
    else if (!this.isFull) this.problems.push(problem);
  }

  /** Whether no more problems are kept. */
  get isFull(): boolean {
    return this.problems !== undefined && this.problems.length >= MOST_PROBLEMS;
  }

  /** The text holds something that does not end; what follows it is lost. */
  breakOff(start: number, end: number): void {
    this.broken = true;
    const parameters = { what: 'unclosed-quote' } as const;
    this.report(problemAt({ code: 'input.malformed', parameters }, start < 0 ? undefined : { start, end }));
  }

  /** Tells what nothing takes, and which argument would not have it. */
  leftOver(cursor: Cursor): void {
    const surplus = cursor.rest();
    if (surplus === '' || this.broken) return;
    const { start, end, text } = cursor;
    const tried = this.left?.start === start ? this.left.slot : undefined;
    const expected = tried?.kind.item?.kind.expected ?? tried?.kind.expected;
    const parameters = { read: echoText(surplus), because: 'left-over', argument: tried?.name, expected } as const;
    const isOfLine = text === this.line;
    if (isOfLine) this.note(start, end, undefined);
    this.report(problemAt({ code: 'argument.extra', parameters }, isOfLine ? { start, end } : undefined));
  }

  note(start: number, end: number, argument: string | undefined): void {
    if (this.tokens === undefined) return;
    const span = { start, end };
    this.tokens.push(
      argument === undefined ? { span, takenBy: 'nothing', name: '' } : { span, takenBy: 'argument', name: argument },
    );
  }

  /** The values by name, as the handler gets them. */
  args(): Readonly<Record<string, unknown>> {
    const args: Record<string, unknown> = {};
    const { values } = this;
    const { all } = this.slots;
    for (let index = 0; index < all.length; index++) args[(all[index] as Slot).name] = values[index];
    return args;
  }

  /** It is checked as a value that was typed. */
  #fillComputed(slot: Slot, computed: MaybePromise<unknown>): PromiseLike<void> | undefined {
    const take = (value: unknown): MaybePromise<void> | undefined => {
      if (value === undefined) return this.missing(slot);
      const read = slot.kind.take(value, this.context);
      const accept = (settled: unknown) => this.accept(slot, settled, String(value), -1, -1);
      return isThenable(read) ? read.then(accept) : accept(read);
    };
    const pending = isThenable(computed) ? computed.then(take) : take(computed);
    return isThenable(pending) ? pending : undefined;
  }
}

/** Where something was typed; nowhere where `start` is -1. */
type TypedAt = Pick<Piece, 'typed' | 'start' | 'end'>;

const nowhereTyped: TypedAt = { typed: '', start: -1, end: -1 };

/** Stands for a value that `.map` refused. */
const refusedValue = Symbol('refused');

function putIn(made: unknown): unknown {
  return made === refusedValue ? undefined : made;
}

/** Each value of a list, mapped in its turn; refused as a whole where one is. */
function mapEach(
  values: readonly unknown[],
  convert: (value: unknown) => unknown,
  settle: (made: unknown, index: number) => unknown,
): MaybePromise<unknown> {
  const made: unknown[] = [];
  try {
    for (const value of values) made.push(convert(value));
  } catch (error) {
    // What is still to come is waited for by nobody.
    made.forEach(atOnce);
    throw error;
  }
  const settled = (all: readonly unknown[]) => {
    const items = all.map(settle);
    return items.includes(refusedValue) ? refusedValue : items;
  };
  return made.some(isThenable) ? Promise.all(made).then(settled) : settled(made);
}

function problemAt(problem: Problem, span: Span | undefined): Problem {
  return span === undefined ? problem : ({ code: problem.code, parameters: problem.parameters, span } as Problem);
}

function misreadProblem(
  slot: Slot,
  misread: Misread,
  typed: string,
  span: Span | undefined,
  context: ReadingContext,
): Problem {
  const argument = slot.name;
  const read = echoText(typed);
  switch (misread.code) {
    case 'argument.invalid': {
      const {
        expected: ownWords,
        misfit,
        near,
      } = { ...(misread.parameters as CodeParameters['argument.invalid']), ...misread.later?.() };
      const { expected: usual, expectedNow, measure = 'amount' } = slot.kind.item?.kind ?? slot.kind;
      const expected = ownWords ?? expectedNow?.(context) ?? usual;
      return problemAt({ code: misread.code, parameters: { argument, read, expected, misfit, measure, near } }, span);
    }
    case 'argument.ambiguous': {
      const { matches } = misread.parameters as CodeParameters['argument.ambiguous'];
      return problemAt({ code: misread.code, parameters: { argument, read, matches } }, span);
    }
    case 'argument.absent-member':
      return problemAt({ code: misread.code, parameters: { argument, read } }, span);
  }
}

/** In an order that does not depend on how it was given: by the arguments' own, then what is unknown, then what is left over. */
export function readingProblems(reading: Reading): readonly Problem[] | undefined {
  const { problems, slots, values } = reading;
  if (problems === undefined) return undefined;
  const rank = ({ code, parameters }: Problem) => {
    if (code === 'argument.unknown') return values.length;
    if (code === 'argument.extra' && parameters.because === 'left-over') return values.length + 1;
    return slots.all.findIndex(({ name }) => 'argument' in parameters && name === parameters.argument);
  };
  const ranked = problems.map((problem) => ({ problem, rank: rank(problem) }));
  return ranked.sort((one, other) => one.rank - other.rank).map(({ problem }) => quotable(reading, problem));
}

const LONGEST_QUOTED = 40;

/** With the quotes that would have made plain text of what was typed. */
function quotable(reading: Reading, problem: Problem): Problem {
  const { code, parameters, span } = problem;
  const { line, slots } = reading;
  if (span === undefined || line === undefined) return problem;
  let start: number | undefined = span.start;
  if (code === 'argument.extra') {
    start = parameters.because === 'left-over' ? wordBefore(reading, line, start) : undefined;
  } else if (code === 'argument.invalid') {
    const index = slots.positional.findIndex(({ name }) => name === parameters.argument);
    const slot = slots.positional[index];
    const leaves = slot?.kind.leavesQuoted === true && slot.absent.as !== 'problem';
    // What is beyond a bound was meant for the argument.
    const isBeyond = parameters.misfit === 'below' || parameters.misfit === 'above';
    if (isBeyond || !leaves || !slots.positional.slice(index).some(({ reader }) => reader.isVerbatim)) return problem;
  } else return problem;
  const typed = start === undefined ? '"' : line.slice(start, span.end);
  return typed.length > LONGEST_QUOTED || typed.includes('"') ? problem : { ...problem, quoted: `"${typed}"` };
}

/** Where the word in front of what is left over begins, if an argument took it as plain text. */
function wordBefore({ slots, values }: Reading, line: string, leftOver: number): number | undefined {
  const before = line.slice(Math.max(0, leftOver - LONGEST_QUOTED), leftOver).trimEnd();
  const word = before.slice(before.search(/\S*$/));
  const last = slots.positional.findLast(({ index }) => values[index] !== undefined);
  const isPlain = last?.reader.isVerbatim === true && last.convert === undefined && values[last.index] === word;
  return isPlain ? line.lastIndexOf(word, leftOver - 1) : undefined;
}
