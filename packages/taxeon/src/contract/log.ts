/** What the layer needs of a logger. */

/** The shape that common structured loggers share: fields first, then a sentence. */
export interface Log {
  error(fields: Readonly<Record<string, unknown>>, message: string): void;
  warn(fields: Readonly<Record<string, unknown>>, message: string): void;
  info?(fields: Readonly<Record<string, unknown>>, message: string): void;
}
