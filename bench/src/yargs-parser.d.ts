/** The part of yargs-parser that the benchmark calls; the package declares no types. */
declare module 'yargs-parser' {
  interface Options {
    boolean: string[];
    string: string[];
    configuration: Record<string, boolean>;
  }

  export default function parse(line: string, options?: Partial<Options>): { _: string[]; [flag: string]: unknown };
}
