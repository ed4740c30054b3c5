/** Copies a folder of the package that is being built: `node copy.js FROM TO`. */
import { cpSync } from 'node:fs';

const [from, to] = process.argv.slice(2);
if (from === undefined || to === undefined) throw new Error('Name what to copy, and where to.');
cpSync(from, to, { recursive: true });
