/** How much the library does, counted, so that it is the same on every machine. */
import { Session } from 'node:inspector/promises';

/** Built-in functions that go through a whole text or list, and those that look at one place of it. */
const throughTexts =
  'indexOf includes normalize toLowerCase toUpperCase split trim trimEnd trimStart replace replaceAll match search localeCompare at charAt codePointAt charCodeAt';
const throughLists = 'indexOf includes slice splice concat join reverse toReversed';

export interface StepCounter {
  /** How often the blocks of the library's code run in this work, and how much built-in functions go through. */
  of(work: () => unknown): Promise<number>;
  end(): Promise<void>;
}

type Methods = Record<PropertyKey, (...given: never[]) => unknown>;

/** Counts from now on, until it is ended; all runs slower meanwhile. */
export async function stepCounter(): Promise<StepCounter> {
  let gone = 0;
  const counted = (on: object, name: PropertyKey) => {
    const methods = on as Methods;
    const own = methods[name] as (...given: never[]) => unknown;
    const isOnePlace = /at$/i.test(String(name));
    methods[name] = function (this: { readonly length: number }, ...given: never[]) {
      const result = own.apply(this, given);
      const from = name === 'indexOf' ? (given[1] ?? 0) : 0;
      const upTo = name === 'indexOf' && (result as number) >= 0 ? (result as number) : this.length;
      gone += isOnePlace ? 1 : 1 + Math.max(0, upTo - from);
      return result;
    };
    return () => {
      methods[name] = own;
    };
  };
  const undo = [
    ...throughTexts.split(' ').map((name) => counted(String.prototype, name)),
    ...throughLists.split(' ').map((name) => counted(Array.prototype, name)),
    counted(Array.prototype, Symbol.iterator),
  ];
  const { exec } = RegExp.prototype;
  RegExp.prototype.exec = function (this: RegExp, text: string) {
    const from = this.sticky || this.global ? this.lastIndex : 0;
    const found = exec.call(this, text);
    const upTo = found === null ? (this.sticky ? from : text.length) : found.index + found[0].length;
    gone += 1 + Math.max(0, upTo - from);
    return found;
  };
  const session = new Session();
  session.connect();
  await session.post('Profiler.enable');
  await session.post('Profiler.startPreciseCoverage', { callCount: true, detailed: true });

  return {
    async of(work) {
      await session.post('Profiler.takePreciseCoverage');
      gone = 0;
      await work();
      const throughBuiltIns = gone;
      const { result } = await session.post('Profiler.takePreciseCoverage');
      const blocks = result
        .filter(({ url }) => /\/packages\/[\w-]+\/(src|dist)\//.test(url))
        .flatMap(({ functions }) => functions.flatMap(({ ranges }) => ranges.map(({ count }) => count)));
      return blocks.reduce((sum, count) => sum + count, throughBuiltIns);
    },
    async end() {
      RegExp.prototype.exec = exec;
      for (const one of undo) one();
      await session.post('Profiler.stopPreciseCoverage');
      session.disconnect();
    },
  };
}
