/** Carrying out a difference: in an order that leaves nobody without a command, as fast as the platform allows, once. */
import { after, type Clock, systemClock } from '../base/time.js';
import { problemInWords } from '../catalogue/problem.js';
import { isPlatformError, type PlatformError } from '../contract/platform.js';
import { Conflict, isConflict, type Registrar, type RegistrationScope, scopeName } from '../contract/registrar.js';
import type { Store } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import type { Desired, Manifest } from '../queries/manifest.js';
import {
  chosen,
  type Difference,
  type DifferenceEntry,
  type DifferenceOptions,
  differenceTo,
  registersAs,
  scopeDifference,
} from './difference.js';

export interface RegisterOptions extends DifferenceOptions {
  /** Where it is kept that one process registers, and what was registered last; without one, nobody else is asked. */
  readonly store?: Store;
  /** Removes what this bot has registered and no longer has; no by default. */
  readonly removeLeftOver?: boolean;
  /** Whether nothing is asked of the platform where the manifest is the one that was registered last; no by default. */
  readonly skipUnchanged?: boolean;
  readonly clock?: Clock;
  /** Told each step. */
  onProgress?(step: RegistrationStep): void;
}

export interface RegistrationStep {
  readonly scope: string;
  readonly done: 'created' | 'updated' | 'removed' | 'kept' | 'waiting';
  /** The command, where it is about one. */
  readonly name: string;
  /** How long the platform asked to wait, or until when a command is kept, in words for a person. */
  readonly note: string;
}

export interface Registered {
  readonly outcome: 'carried-out' | 'unchanged';
  readonly created: number;
  readonly updated: number;
  readonly removed: number;
  /** Commands that should go, and are kept since people would be without them, or since nobody asked for removals. */
  readonly kept: number;
}

/** Why nothing, or not all, was registered. What was is kept: the next run goes on from there. */
export class RegistrationError extends Error {
  override readonly name = 'RegistrationError';

  constructor(
    message: string,
    readonly problems: Difference['problems'] = [],
    options?: ErrorOptions,
  ) {
    super(message, options);
  }
}

/** How long a claim holds while its process says nothing; each step renews it. */
const CLAIM_MS = 90_000;
const LOOK_AGAIN_MS = 250;
/** How long another process is waited for. */
const LONGEST_WAIT_MS = 10 * 60_000;

/**
 * Registers what a manifest says. Reads each scope right before it changes it; adds and changes first, removes last.
 *
 * @throws RegistrationError where the platform would not take something, does not answer, or somebody else changes
 * the same commands all the time; PlatformError where an authorisation is missing or a guild is unknown.
 *
 * @example
 * const { created } = await register(manifestOf(layer), registrar, { store, skipUnchanged: true });
 */
export async function register(
  manifest: Manifest,
  registrar: Registrar,
  options: RegisterOptions = {},
): Promise<Registered> {
  const { store = memoryStore(), clock = systemClock, skipUnchanged = false } = options;
  const desired = chosen(manifest, registrar.name, options);
  const fingerprint = await fingerprintOf(desired, options);
  const prints = `registration/${registrar.name}/done/${desired.map(({ scope }) => scopeName(scope)).join('+')}`;
  const isDone = async () => skipUnchanged && (await store.read(prints))?.value === fingerprint;
  if (await isDone()) return unchanged;
  const claim = await claimed(store, `registration/${registrar.name}/claim`, clock);
  try {
    // Somebody else may have done it while this process waited.
    if (await isDone()) return unchanged;
    const registered = await carryOut(manifest, desired, registrar, { ...options, clock }, claim);
    await overwrite(store, prints, fingerprint);
    return registered;
  } finally {
    await claim.release();
  }
}

const unchanged: Registered = { outcome: 'unchanged', created: 0, updated: 0, removed: 0, kept: 0 };

interface Counts {
  created: number;
  updated: number;
  removed: number;
  kept: number;
}

async function carryOut(
  manifest: Manifest,
  desired: readonly Desired[],
  registrar: Registrar,
  options: RegisterOptions & { readonly clock: Clock },
  claim: Claim,
): Promise<Registered> {
  const { problems } = await trying(options, claim, 'all', () => differenceTo(manifest, registrar, options));
  if (problems.length > 0) {
    const list = problems.map((one) => `  ${one.scope}: ${problemInWords(one)}`);
    throw new RegistrationError(
      `The platform would not take this, so nothing was registered:\n${list.join('\n')}`,
      problems,
    );
  }
  const counts: Counts = { created: 0, updated: 0, removed: 0, kept: 0 };
  // All that people gain first, in every scope; only then what they lose.
  for (const one of desired) await bring(one, registrar, options, claim, counts);
  for (const one of desired) await removeLeftOver(one, desired, registrar, options, claim, counts);
  return { outcome: 'carried-out', ...counts };
}

/** Looks again after each change: what was changed meanwhile, by whomever, is not done twice. */
async function bring(
  desired: Desired,
  registrar: Registrar,
  options: RegisterOptions & { readonly clock: Clock },
  claim: Claim,
  counts: Counts,
): Promise<void> {
  const { by = registersAs } = options;
  const scope = scopeName(desired.scope);
  for (let conflicts = 0; conflicts < MOST_CONFLICTS; conflicts++) {
    const { entries } = await trying(options, claim, scope, () => scopeDifference(desired, registrar, by));
    const open = entries.filter((entry) => entry.state === 'lacking' || entry.state === 'differs');
    if (open.length === 0) return;
    try {
      for (const entry of open) {
        await attempt(options, claim, scope, async () => {
          if (entry.state === 'lacking') await registrar.create(desired.scope, entry.form, by);
          else await registrar.update(desired.scope, entry.held, entry.form);
        });
        const done = entry.state === 'lacking' ? 'created' : 'updated';
        counts[done] += 1;
        options.onProgress?.({ scope, done, name: entry.name, note: '' });
      }
    } catch (error) {
      if (!isConflict(error)) throw error;
      await wait(options.clock, LOOK_AGAIN_MS * 2 ** Math.min(conflicts, 5));
    }
  }
  throw new RegistrationError(
    `The commands of ${scope} are changed by somebody else all the time. Look at the difference again, and register later.`,
  );
}

const MOST_CONFLICTS = 8;

async function removeLeftOver(
  desired: Desired,
  all: readonly Desired[],
  registrar: Registrar,
  options: RegisterOptions & { readonly clock: Clock },
  claim: Claim,
  counts: Counts,
): Promise<void> {
  const { by = registersAs, clock } = options;
  const scope = scopeName(desired.scope);
  const { entries } = await trying(options, claim, scope, () => scopeDifference(desired, registrar, by));
  for (const entry of entries) {
    if (entry.state !== 'leftOver') continue;
    const tell = (done: RegistrationStep['done'], note: string) =>
      options.onProgress?.({ scope, done, name: entry.name, note });
    if (options.removeLeftOver !== true) {
      counts.kept += 1;
      tell('kept', 'removals were not asked for');
      continue;
    }
    const visibleAt = await seenElsewhereAt(entry, desired.scope, all, registrar, options, claim);
    if (visibleAt > clock.now()) {
      counts.kept += 1;
      tell('kept', `until people see the other one, at ${new Date(visibleAt).toISOString()}`);
      continue;
    }
    try {
      await attempt(options, claim, scope, async () => registrar.remove(desired.scope, entry.held));
      counts.removed += 1;
      tell('removed', '');
    } catch (error) {
      if (!isConflict(error)) throw error;
      counts.kept += 1;
      tell('kept', 'somebody else has changed it');
    }
  }
}

/** A guild's command that has become a global one is kept until people see that. */
async function seenElsewhereAt(
  { name, held }: Extract<DifferenceEntry, { state: 'leftOver' }>,
  scope: RegistrationScope,
  all: readonly Desired[],
  registrar: Registrar,
  options: RegisterOptions & { readonly clock: Clock },
  claim: Claim,
): Promise<number> {
  if (scope === 'global') return 0;
  const global = all.find((one) => one.scope === 'global');
  const isGlobal = global?.forms.some((form) => form.id === held.form.id || form.name === name) === true;
  if (!isGlobal) return 0;
  const there = await trying(options, claim, 'global', async () => registrar.read('global'));
  return (
    there.find(({ form }) => form.id === held.form.id || form.name === name)?.visibleAt ?? Number.POSITIVE_INFINITY
  );
}

type Waiting = RegisterOptions & { readonly clock: Clock };

const ATTEMPTS = 8;
const FIRST_PAUSE_MS = 500;
const LONGEST_PAUSE_MS = 5 * 60_000;

/** A change of one command. Where it may have arrived, the scope is read again: a conflict makes the caller do that. */
async function attempt(options: Waiting, claim: Claim, scope: string, change: () => Promise<void>): Promise<void> {
  await trying(options, claim, scope, async () => {
    try {
      await change();
    } catch (error) {
      if (isPlatformError(error) && error.mayHaveArrived) throw new Conflict('It may have arrived', { cause: error });
      throw error;
    }
  });
}

/** Again, as long as the platform asks or with growing pauses, where a second attempt may help. */
async function trying<T>(options: Waiting, claim: Claim, scope: string, what: () => Promise<T>): Promise<T> {
  let last: unknown;
  for (let tried = 0; tried < ATTEMPTS; tried++) {
    await claim.renew();
    try {
      return await what();
    } catch (error) {
      if (!isPlatformError(error) || !passes(error)) throw error;
      last = error;
      const pauseMs = Math.max(error.retryAfterMs ?? 0, FIRST_PAUSE_MS * 2 ** tried);
      if (pauseMs > LONGEST_PAUSE_MS || tried === ATTEMPTS - 1) break;
      options.onProgress?.({ scope, done: 'waiting', name: '', note: `${Math.ceil(pauseMs / 1000)} s` });
      await wait(options.clock, pauseMs);
    }
  }
  throw new RegistrationError(
    `The platform did not take it: ${(last as Error).message}. What was registered so far is kept; run it again later.`,
    [],
    { cause: last },
  );
}

function passes({ code }: PlatformError): boolean {
  return code === 'platform.slowed' || code === 'platform.unreachable';
}

function wait(clock: Clock, ms: number): Promise<void> {
  return new Promise((done) => void after(clock, ms, done));
}

interface Claim {
  renew(): Promise<void>;
  release(): Promise<void>;
}

/** One process at a time; a claim whose process has died runs out. */
async function claimed(store: Store, key: string, clock: Clock): Promise<Claim> {
  const own = Array.from(crypto.getRandomValues(new Uint8Array(8)), (byte) => byte.toString(16).padStart(2, '0')).join(
    '',
  );
  const until = clock.now() + LONGEST_WAIT_MS;
  for (;;) {
    const held = await store.read(key);
    const isFree = held === undefined || held.value === '';
    if (isFree && (await store.compareAndSet(key, held?.version ?? 0, own, CLAIM_MS))) break;
    if (clock.now() > until) throw new RegistrationError('Another process is registering and does not come to an end.');
    await wait(clock, LOOK_AGAIN_MS);
  }
  const hold = async (value: string, ms: number) => {
    const held = await store.read(key);
    if (held?.value !== own) throw new RegistrationError('Another process has taken over registering; run it again.');
    await store.compareAndSet(key, held.version, value, ms);
  };
  return { renew: () => hold(own, CLAIM_MS), release: () => hold('', 1).catch(() => undefined) };
}

async function overwrite(store: Store, key: string, value: string): Promise<void> {
  for (let tried = 0; tried < ATTEMPTS; tried++) {
    const held = await store.read(key);
    if (held?.value === value || (await store.compareAndSet(key, held?.version ?? 0, value))) return;
  }
}

/** The same for the same manifest, scopes and way of registering. */
async function fingerprintOf(
  desired: readonly Desired[],
  { by, removeLeftOver = false }: RegisterOptions,
): Promise<string> {
  const text = JSON.stringify({ desired, by, removeLeftOver });
  const digest = await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text));
  return Array.from(new Uint8Array(digest), (byte) => byte.toString(16).padStart(2, '0')).join('');
}
