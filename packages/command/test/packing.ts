/** The packages as they are published. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { folderOf, packages } from '../../../scripts/packages.js';
import { start } from '../../../test/support/programs.js';

/** @throws what npm has said, where it failed */
export async function npm(args: readonly string[], cwd: string): Promise<string> {
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined };
  const quiet = ['--no-audit', '--no-fund', '--loglevel=error'];
  const { status, out, err } = await start('npm', [...args, ...quiet], { cwd, env }).finished;
  if (status !== 0) throw new Error(`npm ${args.join(' ')}: ${out}${err}`);
  return out.trim();
}

/** All packages as tarballs in a folder: the path of each, by its name. */
export async function packed(folder: string): Promise<Readonly<Record<string, string>>> {
  const paths: [string, string][] = [];
  for (const name of packages) {
    const { name: published } = JSON.parse(readFileSync(`${folderOf(name)}package.json`, 'utf8'));
    paths.push([published, join(folder, await npm(['pack', '--pack-destination', folder], folderOf(name)))]);
  }
  return Object.fromEntries(paths);
}

/**
 * Installs packages as a line of a README says it, in an empty project. Of ours those that are published, and with them
 * what they need of ours.
 */
export async function install(tarballs: Readonly<Record<string, string>>, words: readonly string[], project: string) {
  const needed = new Set(words);
  for (const name of needed) for (const other of ownNeeds(name)) needed.add(other);
  const given = [...needed].map((name) => tarballs[name] ?? name);
  await npm(['install', '--prefer-offline', ...given], project);
}

/** What a package of ours needs of ours. */
function ownNeeds(name: string): string[] {
  if (!/^@?taxeon(?:\/|$)/.test(name)) return [];
  const folder = folderOf(name.replace('@taxeon/', ''));
  const {
    dependencies = {},
    peerDependencies = {},
    peerDependenciesMeta = {},
  } = JSON.parse(readFileSync(`${folder}package.json`, 'utf8'));
  const peers = Object.keys(peerDependencies).filter((peer) => !(peer in peerDependenciesMeta));
  return [...Object.keys(dependencies), ...peers].filter((one) => /^@?taxeon(?:\/|$)/.test(one));
}
