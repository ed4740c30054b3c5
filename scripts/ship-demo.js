/** Copies the built demo bot into the command's package, so that `taxeon demo` works wherever that is installed. */
import { cpSync, rmSync } from 'node:fs';

const from = new URL('../examples/tool-library/', import.meta.url);
const to = new URL('../packages/command/dist/demo/', import.meta.url);

rmSync(to, { recursive: true, force: true });
cpSync(new URL('dist/', from), to, { recursive: true, filter: (file) => !file.endsWith('.d.ts') });
