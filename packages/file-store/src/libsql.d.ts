/** The part of libsql that the file store uses. */
declare module 'libsql' {
  interface Statement {
    get(...values: unknown[]): unknown;
    all(...values: unknown[]): unknown[];
    run(...values: unknown[]): { changes: number };
  }

  export default class Database {
    constructor(path: string, options?: { timeout?: number });
    prepare(sql: string): Statement;
    exec(sql: string): void;
    pragma(text: string): unknown;
    close(): void;
  }
}
