/** Hooks around a handler, put together once. */
import type { Answer, AroundHook, Call } from '../commands/call.js';
import type { AnyDeclaration } from '../commands/command.js';

/** A hook and whose it is. */
export interface AroundBy {
  readonly by: string;
  readonly around: AroundHook;
}

type RunFunction = AnyDeclaration['run'];

/** The handler inside all hooks, the first of them outermost; the handler itself where there is none. */
export function runWithin(arounds: readonly AroundBy[], run: RunFunction): RunFunction {
  return arounds.reduceRight<RunFunction>(
    (inner, { by, around }) =>
      (call) =>
        around(call, runOnce(by, inner, call)),
    run,
  );
}

function runOnce(by: string, inner: RunFunction, call: Call): () => Promise<Answer> {
  let wasCalled = false;
  return async () => {
    if (wasCalled) throw new Error(`around of ${by} called next() twice`);
    wasCalled = true;
    return (await inner(call)) ?? undefined;
  };
}
