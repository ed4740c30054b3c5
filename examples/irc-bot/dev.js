/** `npm run dev`: runs the bot, compiles the commands whenever one changes, and the bot reads them anew. */
import { spawn, spawnSync } from 'node:child_process';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';

const tsc = join(dirname(createRequire(import.meta.url).resolve('typescript/package.json')), 'bin/tsc');
const { status } = spawnSync('npm', ['run', 'build', '--silent'], {
  stdio: 'inherit',
  shell: process.platform === 'win32',
});
if (status !== 0) process.exit(status ?? 1);

const start = (args, detached = false) => spawn(process.execPath, args, { stdio: 'inherit', detached });
// The compiler is a program that starts another one: both are ended together.
const isGroup = process.platform !== 'win32';
const compiler = start([tsc, '-p', '../tool-library', '--watch', '--preserveWatchOutput', '--noEmitOnError'], isGroup);
const bot = start(['dist/irc-bot.js', '--watch', ...process.argv.slice(2)]);

bot.on('exit', (code) => {
  if (isGroup) process.kill(-compiler.pid);
  else compiler.kill();
  process.exitCode = code ?? 0;
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => bot.kill(signal));
