/** Starting real programs from a temporary folder, and ending just those. */
import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync } from 'node:fs';
import { createServer, Socket } from 'node:net';
import { tmpdir } from 'node:os';
import { delimiter, join } from 'node:path';
import { fileURLToPath } from 'node:url';

/** Where a program is installed, or `undefined`. */
export function findProgram(name: string): string | undefined {
  const folders = [...(process.env['PATH'] ?? '').split(delimiter), '/usr/sbin', '/usr/bin'];
  return folders.map((folder) => join(folder, name)).find((file) => existsSync(file));
}

/**
 * Whether tests of a program must be left out. Never in CI: there a missing program is a failure.
 */
export function isMissing(name: string): boolean {
  if (findProgram(name) !== undefined) return false;
  if (process.env['CI'] === 'true') throw new Error(`${name} is not installed; CI needs it`);
  console.warn(`${name} is not installed: its tests are left out`);
  return true;
}

/** A program of these tests, for a process of its own. */
export function script(name: string): string {
  return fileURLToPath(new URL(name, import.meta.url));
}

export async function freePort(): Promise<number> {
  const server = createServer();
  await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
  const address = server.address();
  await new Promise((resolve) => server.close(resolve));
  if (address === null || typeof address === 'string') throw new Error('no port was given');
  return address.port;
}

/** Resolves once something listens. */
export async function listening(port: number): Promise<void> {
  await until(
    () =>
      new Promise<boolean>((resolve) => {
        const socket = new Socket();
        socket.once('connect', () => {
          socket.destroy();
          resolve(true);
        });
        socket.once('error', () => resolve(false));
        socket.connect(port, '127.0.0.1');
      }),
    `something listens on port ${port}`,
  );
}

export async function until(
  condition: () => boolean | Promise<boolean>,
  what: string,
  withinMs = 30_000,
): Promise<void> {
  const deadline = Date.now() + withinMs;
  while (!(await condition())) {
    if (Date.now() > deadline) throw new Error(`not within ${withinMs} ms: ${what}`);
    await new Promise((resolve) => setTimeout(resolve, 15));
  }
}

export interface Finished {
  readonly status: number | null;
  readonly out: string;
  readonly err: string;
}

export interface Started {
  readonly child: ChildProcess;
  readonly finished: Promise<Finished>;
  /** What it has written so far. */
  out(): string;
  /** Ends the program and waits until it is gone. */
  end(): Promise<Finished>;
}

export function start(
  program: string,
  args: readonly string[],
  { stdin, keys, ...options }: { cwd?: string | URL; env?: NodeJS.ProcessEnv; stdin?: string; keys?: boolean } = {},
): Started {
  // What a program that crashes leaves behind must not land in the project.
  const child = spawn(program, args, {
    cwd: tmpdir(),
    ...options,
    stdio: [stdin === undefined && keys !== true ? 'ignore' : 'pipe', 'pipe', 'pipe'],
  });
  if (keys !== true) child.stdin?.end(stdin);
  let out = '';
  let err = '';
  child.stdout?.on('data', (data) => (out += data));
  child.stderr?.on('data', (data) => (err += data));
  const finished = new Promise<Finished>((resolve, reject) => {
    child.once('error', reject);
    child.once('close', (status) => resolve({ status, out, err }));
  });
  return {
    child,
    finished,
    out: () => out,
    end() {
      child.kill('SIGTERM');
      return finished;
    },
  };
}

/** The same in a terminal of its own: what is written to `child.stdin` is typed. */
export function startInTerminal(line: string, options: { cwd?: string | URL; env?: NodeJS.ProcessEnv } = {}): Started {
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined, TERM: 'xterm', ...options.env };
  return start('script', ['-qec', line, '/dev/null'], { ...options, env, keys: true });
}
