/** `npm run dev`: runs the bot, compiles the commands whenever one changes, and the bot reads them anew. */
import { spawn, spawnSync } from 'node:child_process';
import { createRequire } from 'node:module';

const tsc = createRequire(import.meta.url).resolve('typescript/bin/tsc');
const { status } = spawnSync('npm', ['run', 'build', '--silent'], {
  stdio: 'inherit',
  shell: process.platform === 'win32',
});
if (status !== 0) process.exit(status ?? 1);

const start = (...args) => spawn(process.execPath, args, { stdio: 'inherit' });
const compiler = start(tsc, '--project', '../tool-library', '--watch', '--preserveWatchOutput');
const bot = start('dist/irc-bot.js', '--watch', ...process.argv.slice(2));

bot.on('exit', (code) => {
  compiler.kill();
  process.exitCode = code ?? 0;
});
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => bot.kill(signal));
