/** Where and of what something was measured. */
import { execFileSync } from 'node:child_process';
import { cpus } from 'node:os';
import { fileURLToPath } from 'node:url';

const ROOT = fileURLToPath(new URL('../..', import.meta.url));

export interface Surroundings {
  readonly machine: string;
  /** Year, month and day. */
  readonly date: string;
  readonly commit: string;
}

export function surroundings(): Surroundings {
  const { version, platform, arch } = process;
  return {
    machine: `Node.js ${version.slice(1)}, ${platform} ${arch}, ${cpus().length} cores`,
    date: new Date().toISOString().slice(0, 10),
    commit: commitNow(),
  };
}

/** With a mark where something is not committed. */
function commitNow(): string {
  try {
    const git = (...args: string[]) => execFileSync('git', args, { cwd: ROOT, encoding: 'utf8' }).trim();
    const isChanged = git('status', '--porcelain', '--', 'packages', 'bench/src') !== '';
    return `${git('rev-parse', '--short', 'HEAD')}${isChanged ? ' and changes' : ''}`;
  } catch {
    return 'no commit';
  }
}
