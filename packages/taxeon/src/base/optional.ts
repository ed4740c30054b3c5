/** Packages that not every bot needs: who lacks one reads what to install. */

/**
 * What to throw where a package did not load.
 *
 * @param error what loading it threw
 */
export function lackingPackage(error: unknown, name: string, neededBy: string): unknown {
  const { code, message = '' } = Object(error) as { readonly code?: unknown; readonly message?: unknown };
  const isMissing = (code === 'ERR_MODULE_NOT_FOUND' || code === 'MODULE_NOT_FOUND') && String(message).includes(name);
  if (!isMissing) return error;
  return new TypeError(`${neededBy} needs ${name}; install it with: npm install ${name}`, { cause: error });
}
