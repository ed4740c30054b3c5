#!/usr/bin/env node
/** The command is a package of its own, so that a bot installs nothing that it does not use. */
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';

/** The project's own, or one beside this package. */
const main = [pathToFileURL(join(process.cwd(), 'package.json')), import.meta.url].map(found).find(Boolean);
if (main === undefined) {
  console.error('taxeon: The command is a package of its own; install it with: npm install --save-dev @taxeon/command');
  process.exitCode = 2;
} else {
  await import(pathToFileURL(main).href);
}

function found(from) {
  try {
    return createRequire(from).resolve('@taxeon/command/main');
  } catch {
    return undefined;
  }
}
