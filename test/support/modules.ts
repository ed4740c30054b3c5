/** Bots whose commands are files of a folder, each in a process of its own. */
import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { createInterface } from 'node:readline';
import { fileURLToPath } from 'node:url';
import { onTestFinished } from 'vitest';
import { oddmereData } from './oddmere.js';
import { script } from './programs.js';

export const library = fileURLToPath(new URL('../../packages/taxeon', import.meta.url));
export const taxeon = JSON.stringify(new URL('../../packages/taxeon/dist/index.js', import.meta.url).href);

export type Files = Readonly<Record<string, string>>;
type Answer = Readonly<Record<string, unknown>> & {
  readonly problems?: readonly { readonly file: string; readonly line?: number; readonly problem: string }[];
  readonly says?: string;
  readonly error?: string;
};

/** A bot on a folder of these files, in a process of its own. */
export function botOn(files: Files, { isLinked = false } = {}) {
  const real = mkdtempSync(join(tmpdir(), 'oddmere-modules-'));
  const folder = isLinked ? join(real, 'link') : real;
  const shared = mkdtempSync(join(tmpdir(), 'oddmere-world-'));
  const world = join(shared, 'world.json');
  writeFileSync(world, JSON.stringify(oddmereData().world));
  if (isLinked) {
    mkdirSync(join(real, 'commands'));
    mkdirSync(join(real, 'node_modules'));
    symlinkSync(join(real, 'commands'), folder);
    symlinkSync(library, join(real, 'node_modules', 'taxeon'));
  }
  const write = (name: string, text: string) => {
    mkdirSync(dirname(join(folder, name)), { recursive: true });
    writeFileSync(join(folder, name), text);
  };
  for (const [name, text] of Object.entries(files)) write(name, text);
  const child = spawn(process.execPath, [script('module-runner.js'), folder, world], {
    stdio: ['pipe', 'pipe', 'inherit'],
  });
  onTestFinished(() => {
    child.kill('SIGKILL');
    for (const one of [real, shared]) rmSync(one, { recursive: true, force: true });
  });
  const lines = createInterface({ input: child.stdout })[Symbol.asyncIterator]();
  const tell = async (what: string, given: object = {}): Promise<Answer> => {
    child.stdin.write(`${JSON.stringify({ what, ...given })}\n`);
    const { value, done } = await lines.next();
    if (done === true) throw new Error(`The bot has ended at ${what}`);
    return JSON.parse(value);
  };
  const remove = (name: string) => rmSync(join(folder, name));
  const removeAll = () => rmSync(folder, { recursive: true });
  return { write, remove, removeAll, tell, says: async (text: string) => (await tell('say', { text })).says };
}

/** A command that says something, as JavaScript. */
export const lamp = (name: string, says: string, more = '') =>
  `import { command } from ${taxeon};\n${more}\nexport default command({ name: '${name}', description: 'x', run: () => ${JSON.stringify(says)} });\n`;
