/** What was said in the console, as a tryout. */
import { writeFileSync } from 'node:fs';
import type { Exchange } from 'taxeon/stand-in';
import { expectationOf, type SpokenLine } from 'taxeon/tryouts';
import { stringify } from 'yaml';
import { errorMessage, UsageError } from './errors.js';

export class Recording {
  private readonly lines: object[] = [];

  constructor(private readonly begins: number) {}

  get count(): number {
    return this.lines.length;
  }

  said({ expect: _, ...line }: SpokenLine, exchange: Exchange): void {
    this.lines.push({ ...line, expect: expectationOf(exchange) });
  }

  waited(wait: string): void {
    this.lines.push({ wait });
  }

  /** @throws UsageError where it cannot be written, or is there already */
  write(path: string): void {
    const tryout = { tryout: 'From the console', begins: new Date(this.begins).toISOString(), lines: this.lines };
    try {
      writeFileSync(path, stringify(tryout, { lineWidth: 0 }), { flag: 'wx' });
    } catch (error) {
      throw new UsageError(`${path} cannot be written: ${errorMessage(error)}`);
    }
  }
}
