/** A command's arguments, compiled for the readers. */
import { echo } from '../base/text.js';
import type { MaybePromise } from '../base/thenable.js';
import type { Absent, Arg, ArgMap, DefaultContext } from '../commands/arg.js';
import { type Kind, Misread, type ReadingContext } from '../commands/kind.js';
import type { CodeParameters } from '../contract/codes.js';
import type { Problem, Span } from '../contract/outcome.js';
import type { ReadToken } from '../contract/trace.js';

export interface Slot {
  readonly name: string;
  readonly kind: Kind<unknown>;
  readonly absent: Absent;
  readonly convert: Arg<unknown>['convert'];
}

export function slotsOf(args: ArgMap): readonly Slot[] {
  return Object.entries(args).map(([name, { kind, absent, convert }]) => ({ name, kind, absent, convert }));
}

/** What one reading has found so far. */
export class Reading {
  /** One value a slot, in the slots' order. */
  readonly values: unknown[] = [];
  problems: Problem[] | undefined;
  /** Recorded only for a trace. */
  tokens: ReadToken[] | undefined;

  constructor(
    readonly slots: readonly Slot[],
    readonly context: ReadingContext,
    traced: boolean,
  ) {
    this.tokens = traced ? [] : undefined;
  }

  /** Takes what a kind made of a text; `start` and `end` are its place in the line, where it has one. */
  settle(slot: Slot, read: unknown, typed: string, start = -1, end = -1): void {
    if (read instanceof Misread) {
      this.values.push(undefined);
      this.report(misreadProblem(slot, read, typed, start < 0 ? undefined : { start, end }));
      return;
    }
    this.values.push(slot.convert === undefined ? read : slot.convert(read));
  }

  /** Fills a slot for which nothing was given. */
  fillAbsent(slot: Slot): MaybePromise<void> {
    const { absent } = slot;
    switch (absent.as) {
      case 'undefined':
        this.values.push(undefined);
        return;
      case 'value':
        this.values.push(slot.convert === undefined ? absent.value : slot.convert(absent.value));
        return;
      case 'computed':
        return this.fillComputed(slot, absent.from(this.context satisfies DefaultContext));
      case 'problem':
        this.missing(slot);
    }
  }

  report(problem: Problem): void {
    if (this.problems === undefined) this.problems = [problem];
    else this.problems.push(problem);
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
    const { slots, values } = this;
    for (let index = 0; index < slots.length; index++) args[(slots[index] as Slot).name] = values[index];
    return args;
  }

  private fillComputed(slot: Slot, computed: MaybePromise<unknown>): MaybePromise<void> {
    const settle = (value: unknown) => {
      if (value === undefined) this.missing(slot);
      else this.values.push(slot.convert === undefined ? value : slot.convert(value));
    };
    if (typeof computed === 'object' && computed !== null && 'then' in computed) {
      return (computed as PromiseLike<unknown>).then(settle);
    }
    settle(computed);
  }

  private missing(slot: Slot): void {
    this.values.push(undefined);
    this.report({ code: 'argument.missing', parameters: { argument: slot.name, expected: slot.kind.expected } });
  }
}

function misreadProblem(slot: Slot, misread: Misread, typed: string, span: Span | undefined): Problem {
  const argument = slot.name;
  const read = echo(typed);
  const where = span === undefined ? {} : { span };
  switch (misread.code) {
    case 'argument.invalid': {
      const { misfit, near } = misread.parameters as CodeParameters['argument.invalid'];
      return {
        code: misread.code,
        parameters: { argument, read, expected: slot.kind.expected, misfit, near },
        ...where,
      };
    }
    case 'argument.ambiguous': {
      const { matches } = misread.parameters as CodeParameters['argument.ambiguous'];
      return { code: misread.code, parameters: { argument, read, matches }, ...where };
    }
    case 'argument.absent-member':
      return { code: misread.code, parameters: { argument, read }, ...where };
  }
}
