/** What is remembered of registrations between runs: in which guilds something was registered, and what is due when. */

import type { Clock } from '../base/time.js';
import { isScope } from '../contract/check-held.js';
import { PlatformError } from '../contract/platform.js';
import type { Registrar, RegistrationScope } from '../contract/registrar.js';
import type { Store } from '../contract/store.js';
import { stored } from './calling.js';

/** More guilds than these are not remembered; their own set names them. */
const MOST_GUILDS = 10_000;
const ATTEMPTS = 8;

/** Every guild in which something of this bot's may be registered, by the platform's own marks and by the store. */
export async function touchedGuilds(store: Store | undefined, registrar: Registrar, by: string): Promise<string[]> {
  const marked: unknown = (await registrar.scopes?.(by)) ?? [];
  if (!Array.isArray(marked) || !marked.every(isScope)) {
    throw new PlatformError('platform.failed', 'The platform’s answer is no list of scopes');
  }
  const kept = store === undefined ? [] : rememberedList((await store.read(guildsKey(registrar, by)))?.value);
  return [...new Set([...marked.flatMap(guildIn), ...kept])];
}

/** Before something is registered there, so that a crash loses nothing. */
export async function rememberGuilds(
  store: Store,
  registrar: Registrar,
  by: string,
  clock: Clock,
  change: (guilds: ReadonlySet<string>) => readonly string[],
): Promise<void> {
  await changeRemembered(store, guildsKey(registrar, by), clock, (value) => {
    const guilds = JSON.stringify([...new Set(change(new Set(rememberedList(value))))].sort().slice(0, MOST_GUILDS));
    return guilds === (value ?? '[]') ? undefined : guilds;
  });
}

/** When a command that was taken away somewhere may be registered elsewhere, by its id. */
export type Due = Readonly<Record<string, number>>;

export async function readDue(store: Store, registrar: Registrar, by: string, clock: Clock): Promise<Due> {
  const value = (await stored(clock, () => store.read(dueKey(registrar, by))))?.value;
  const read = parsed(value);
  return typeof read === 'object' && read !== null && Object.values(read).every(Number.isFinite) ? (read as Due) : {};
}

export async function writeDue(store: Store, registrar: Registrar, by: string, clock: Clock, due: Due): Promise<void> {
  await changeRemembered(store, dueKey(registrar, by), clock, (value) => {
    if (value === undefined && Object.keys(due).length === 0) return undefined;
    return JSON.stringify(due);
  });
}

/** @param change gives what is to be written, or `undefined` for nothing */
export async function changeRemembered(
  store: Store,
  key: string,
  clock: Clock,
  change: (value: string | undefined) => string | undefined,
): Promise<void> {
  for (let tried = 0; tried < ATTEMPTS; tried++) {
    const held = await stored(clock, () => store.read(key));
    const next = change(held?.value);
    if (next === undefined) return;
    if (await stored(clock, () => store.compareAndSet(key, held?.version ?? 0, next))) return;
  }
}

export function guildIn(scope: RegistrationScope): readonly string[] {
  return scope === 'everywhere' ? [] : [scope.guild];
}

function guildsKey({ name }: Registrar, by: string): string {
  return `registration/${name}/guilds/${by}`;
}

function dueKey({ name }: Registrar, by: string): string {
  return `registration/${name}/due/${by}`;
}

function rememberedList(value: string | undefined): readonly string[] {
  const read = parsed(value);
  return Array.isArray(read) ? read.filter((one) => typeof one === 'string') : [];
}

/** What does not read was not written here. */
function parsed(value: string | undefined): unknown {
  try {
    return value === undefined ? undefined : JSON.parse(value);
  } catch {
    return undefined;
  }
}
