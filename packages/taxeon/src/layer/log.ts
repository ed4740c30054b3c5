/** What the layer needs of a logger, and the one it has when it is given none. */

/** The shape that common structured loggers share: fields first, then a sentence. */
export interface Log {
  error(fields: Readonly<Record<string, unknown>>, message: string): void;
  warn(fields: Readonly<Record<string, unknown>>, message: string): void;
}

export const consoleLog: Log = {
  error: (fields, message) => console.error(message, fields),
  warn: (fields, message) => console.warn(message, fields),
};

const letters = '23456789abcdefghjkmnpqrstuvwxyz';

/** A short reference that a person can read out: eight letters and digits, none that look alike. */
export function randomReference(): string {
  const bytes = crypto.getRandomValues(new Uint8Array(8));
  return Array.from(bytes, (byte) => letters[byte % letters.length]).join('');
}
