/** Ends the process, saying why, where something cannot be done that must be. */
export function orEnd<T>(does: () => T): T {
  try {
    return does();
  } catch (error) {
    console.error(error instanceof Error ? error.message : String(error));
    process.exit(2);
  }
}
