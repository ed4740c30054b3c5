/** The packages as they are published. */
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { start } from '../../taxeon/test/support/programs.js';

const packages = fileURLToPath(new URL('../../', import.meta.url));

/** @throws what npm has said, where it failed */
export async function npm(args: readonly string[], cwd: string): Promise<string> {
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined };
  const quiet = ['--no-audit', '--no-fund', '--loglevel=error'];
  const { status, out, err } = await start('npm', [...args, ...quiet], { cwd, env }).finished;
  if (status !== 0) throw new Error(`npm ${args.join(' ')}: ${out}${err}`);
  return out.trim();
}

/** Packs the library and the command into a folder; the paths of both. */
export async function packed(folder: string): Promise<readonly string[]> {
  const paths: string[] = [];
  for (const name of ['taxeon', 'command']) {
    paths.push(join(folder, await npm(['pack', '--pack-destination', folder], join(packages, name))));
  }
  return paths;
}
