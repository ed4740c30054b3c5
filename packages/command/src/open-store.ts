/** Opening the file, or the Redis server, that a bot keeps its limits, settings and counts in. */
import { existsSync } from 'node:fs';
import { createRequire } from 'node:module';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import type { Clock, Store } from 'taxeon';
import { errorMessage, UsageError } from './errors.js';

/** @throws UsageError where it does not open. */
export async function openStore(path: string, clock?: Clock): Promise<Store> {
  try {
    const { fileStore } = await fromHere<typeof import('@taxeon/file-store')>('@taxeon/file-store');
    return fileStore(clock === undefined ? { path } : { path, clock });
  } catch (error) {
    throw new UsageError(`${path} does not open as a store: ${errorMessage(error)}`);
  }
}

/** A package of the bot's own folder; of ours, one beside the command will do. */
async function fromHere<Module>(name: string): Promise<Module> {
  const path = [join(process.cwd(), 'package.json'), ...(name.startsWith('@taxeon/') ? [import.meta.url] : [])]
    .map((from) => resolvedFrom(from, name))
    .find((one) => one !== undefined);
  if (path === undefined)
    throw new UsageError(`looking at it needs the package ${name}; install it with: npm install ${name}`);
  return (await import(pathToFileURL(path).href)) as Module;
}

function resolvedFrom(from: string, name: string): string | undefined {
  try {
    return createRequire(from).resolve(name);
  } catch {
    return undefined;
  }
}

/** What a bot keeps, and where: a file's path, or the address of a server with the name of the bot there. */
export interface StorePlace {
  readonly store: string;
  readonly bot?: string;
}

/** @throws UsageError where there is none, too. */
export function openExistingStore({ store: path, bot }: StorePlace, what: string): Promise<Store> {
  if (/^rediss?:\/\//.test(path)) return openOnServer(path, bot);
  if (bot !== undefined) throw new UsageError('--bot goes with a server: --store redis://localhost:6379 --bot mallet.');
  if (!existsSync(path))
    throw new UsageError(`There is no store at ${path}; name the file that the bot keeps ${what} in.`);
  return openStore(path);
}

function withoutPassword(url: string): string {
  return url.replace(/^(rediss?:\/\/)[^/]*@/, '$1');
}

/** The password is not written on the command line, where others can see it. */
async function openOnServer(url: string, bot: string | undefined): Promise<Store> {
  if (bot === undefined) throw new UsageError('Say whose keys to look at with --bot, as in redisStore: --bot mallet.');
  const password = process.env['REDIS_PASSWORD'];
  try {
    const { createClient } = await fromHere<typeof import('redis')>('redis');
    const { redisStore } = await fromHere<typeof import('@taxeon/redis')>('@taxeon/redis');
    const connection = createClient(password === undefined ? { url } : { url, password });
    const store = redisStore(connection, { bot });
    try {
      await store.read('');
    } catch (error) {
      // Its connections would be tried for ever.
      await store.close();
      throw error;
    }
    return store;
  } catch (error) {
    throw new UsageError(`${withoutPassword(url)} does not open as a store: ${errorMessage(error)}`);
  }
}
