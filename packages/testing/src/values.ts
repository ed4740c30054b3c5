/** What was given or thrown, whatever it is. */

export function isObject(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** What was thrown, in a word. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
