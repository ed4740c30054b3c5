/** Runs a built program, and builds it first where it is not there yet: `node scripts/run-built.js FILE …`. */
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { pathToFileURL } from 'node:url';

const [file] = process.argv.splice(2, 1);
if (file === undefined) throw new Error('Name the file to run.');
if (!existsSync(file)) {
  console.error('Building first, since this was not built yet.');
  const { status } = spawnSync('npm', ['run', 'build', '--silent'], {
    stdio: 'inherit',
    shell: process.platform === 'win32',
  });
  if (status !== 0) process.exit(status ?? 1);
}
process.argv[1] = file;
await import(pathToFileURL(file).href);
