/** Something the person at the terminal can mend: told in one sentence, exit status 2. */
export class UsageError extends Error {
  override readonly name = 'UsageError';
}

export function errorMessage(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
