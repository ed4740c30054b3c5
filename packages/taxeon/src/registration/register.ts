/** Carrying out a difference: in an order that leaves nobody without a command, as fast as the platform allows, once. */
import { type Clock, systemClock } from '../base/time.js';
import { problemInWords } from '../catalogue/problem.js';
import { isPlatformError } from '../contract/platform.js';
import { type RegisteredForm, type Registrar, type RegistrationScope, scopeName } from '../contract/registrar.js';
import { memoryStore } from '../memory/store.js';
import type { Desired, Manifest } from '../queries/manifest.js';
import {
  type Claim,
  changing,
  type RegistrarCalling,
  type RegistrationStep,
  stored,
  trying,
  withinPatience,
} from './calling.js';
import { type LeftToDo, type Progress, type Registering, untilSettled } from './change.js';
import { claimScope } from './claim.js';
import {
  chosenScopes,
  type Difference,
  type DifferenceEntry,
  type DifferenceOptions,
  differenceBetween,
  registersAs,
  scopeDifference,
} from './difference.js';
import { RegistrationError } from './errors.js';
import { changeRemembered, guildIn, readDue, rememberGuilds, touchedGuilds, writeDue } from './remembered.js';
import { removeEach, removeLeftOver } from './removing.js';

/** How a manifest is carried out. */
export interface RegisterOptions extends DifferenceOptions {
  /** Removes what this bot has registered and no longer has; no by default. */
  readonly removeLeftOver?: boolean;
  /**
   * Whether nothing is changed where the manifest is the one that was registered last, and is still in place: that is
   * looked at once. No by default.
   */
  readonly skipUnchanged?: boolean;
  readonly clock?: Clock;
  /** Told each step, and of each wait what for and how long. */
  onProgress?(step: RegistrationStep): void;
}

/** What registering has done, and what is left. */
export interface Registered {
  readonly outcome: 'carried-out' | 'unchanged';
  readonly created: number;
  readonly updated: number;
  readonly removed: number;
  /** Commands that should go, and are kept since people would be without them, or since nobody asked for removals. */
  readonly kept: number;
  readonly left: readonly LeftToDo[];
}

/**
 * Registers what a manifest says. Reads each scope right before it changes it; adds and changes first, removes last.
 * Guilds in which something was registered before are looked at as well, as the platform or the store knows them.
 *
 * @throws RegistrationError where the platform would not take something, does not answer, or another process changes
 * the same commands all the time; PlatformError where an authorisation is missing or a guild is unknown.
 *
 * @example
 * const { created, left } = await register(manifestOf(layer), registrar, { store, skipUnchanged: true });
 */
export async function register(
  manifest: Manifest,
  registrar: Registrar,
  options: RegisterOptions = {},
): Promise<Registered> {
  const { store = memoryStore(), clock = systemClock, skipUnchanged = false } = options;
  const { onProgress } = options;
  const calling: RegistrarCalling = { clock, ...(onProgress === undefined ? {} : { onProgress }) };
  const { by = registersAs, removeLeftOver: removes = false, guilds = [] } = options;
  const registering: Registering = { ...calling, store, registrar, by, removeLeftOver: removes };
  const touch = () => withinPatience(calling, () => touchedGuilds(options.store, registrar, by));
  const touched = options.scopes === undefined ? await trying(calling, noClaim, 'all', touch) : [];
  const desired = chosenScopes(manifest, registrar, options, touched);
  const fingerprint = await fingerprintOf(desired, options);
  const prints = `registration/${registrar.name}/done/${desired.map(({ scope }) => scopeName(scope)).join('+')}`;
  const before = await stored(clock, () => store.read(prints));
  if (skipUnchanged && before?.value === fingerprint && (await isInPlace(registering, desired))) return unchanged;
  const claim = await claimScope(store, `registration/${registrar.name}/claim`, calling);
  try {
    // Another process may have done it while this process waited.
    const now = await stored(clock, () => store.read(prints));
    if (skipUnchanged && now?.value === fingerprint && now.version !== before?.version) return unchanged;
    const registered = await carryOut(
      registering,
      manifest,
      await withoutGone(registering, desired, guilds, claim),
      claim,
    );
    // What is left makes the next run go on.
    if (registered.left.length === 0) await changeRemembered(store, prints, clock, () => fingerprint);
    return registered;
  } finally {
    await claim.release();
  }
}

/** A look holds up nobody. */
const noClaim: Claim = { renew: async () => {}, release: async () => {} };

const unchanged: Registered = { outcome: 'unchanged', created: 0, updated: 0, removed: 0, kept: 0, left: [] };

/** A person may have removed or changed on the platform what was registered last. */
async function isInPlace(registering: Registering, desired: readonly Desired[]): Promise<boolean> {
  const { registrar, by } = registering;
  const isOpen = ({ state }: DifferenceEntry) =>
    state === 'lacking' || state === 'differs' || (state === 'leftOver' && registering.removeLeftOver);
  try {
    for (const one of desired) {
      const { entries } = await withinPatience(registering, () => scopeDifference(one, registrar, by));
      if (entries.some(isOpen)) return false;
    }
    return true;
  } catch (error) {
    // The way that registers tries again.
    if (isPlatformError(error)) return false;
    throw error;
  }
}

async function carryOut(
  registering: Registering,
  manifest: Manifest,
  desired: readonly Desired[],
  claim: Claim,
): Promise<Registered> {
  const { registrar, store, clock, by } = registering;
  const { problems } = await trying(registering, claim, 'all', () =>
    withinPatience(registering, () => differenceBetween(manifest, desired, registrar, by)),
  );
  if (problems.length > 0) throw tooMuch(problems);
  const guilds = desired.filter(({ forms }) => forms.length > 0).flatMap(({ scope }) => guildIn(scope));
  await rememberGuilds(store, registrar, by, clock, (known) => [...known, ...guilds]);
  const progress: Progress = { created: 0, updated: 0, removed: 0, kept: 0, left: [] };
  const moving = await removeBeforeTheyMove(registering, desired, claim, progress);
  // All that people gain first, in every scope; only then what they lose.
  for (const one of desired) await bring(registering, one, moving, claim, progress);
  for (const one of desired) {
    const isKept = await removeLeftOver(registering, one, desired, claim, progress);
    const emptied = isKept || one.forms.length > 0 ? [] : guildIn(one.scope);
    if (emptied.length > 0) await forgetGuilds(registering, emptied);
  }
  return { outcome: 'carried-out', ...progress };
}

function tooMuch(problems: Difference['problems']): RegistrationError {
  const list = problems.map((one) => `  ${one.scope}: ${problemInWords(one)}`);
  return new RegistrationError(
    `The platform would not take this, so nothing was registered:\n${list.join('\n')}`,
    problems,
  );
}

/** A guild that is only remembered, and that the bot has left, is forgotten. */
async function withoutGone(
  registering: Registering,
  all: readonly Desired[],
  named: readonly string[],
  claim: Claim,
): Promise<readonly Desired[]> {
  const { registrar } = registering;
  const kept: Desired[] = [];
  for (const one of all) {
    const isRemembered = one.forms.length === 0 && guildIn(one.scope).some((guild) => !named.includes(guild));
    try {
      if (isRemembered) {
        await trying(registering, claim, scopeName(one.scope), () =>
          withinPatience(registering, () => registrar.read(one.scope)),
        );
      }
      kept.push(one);
    } catch (error) {
      if (!isPlatformError(error) || error.code !== 'platform.gone') throw error;
      await forgetGuilds(registering, guildIn(one.scope));
    }
  }
  return kept;
}

async function forgetGuilds({ store, registrar, by, clock }: Registering, gone: readonly string[]): Promise<void> {
  await rememberGuilds(store, registrar, by, clock, (known) => [...known].filter((guild) => !gone.includes(guild)));
}

/**
 * Where people see a change in a guild later than one everywhere, a guild's command that becomes one for everywhere is taken
 * away there first, and registered everywhere when they have seen that.
 *
 * @returns what must not be registered everywhere before which moment, by id
 */
async function removeBeforeTheyMove(
  registering: Registering,
  desired: readonly Desired[],
  claim: Claim,
  progress: Progress,
): Promise<ReadonlyMap<string, number>> {
  const { registrar, store, clock, by } = registering;
  const { everywhere: everywhereMs, guild: guildMs } = registrar.delayMs;
  const due = new Map(Object.entries(await readDue(store, registrar, by, clock)).filter(([, at]) => at > clock.now()));
  if (everywhereMs < guildMs && registering.removeLeftOver) {
    const moving = new Set(desired.find(({ scope }) => scope === 'everywhere')?.forms.map(({ id }) => id));
    for (const { scope } of desired) {
      if (scope === 'everywhere') continue;
      const removed = await removeEach(
        registering,
        { scope, forms: formsHere(desired, scope) },
        claim,
        progress,
        async ({ held }) => (moving.has(held.form.id) ? undefined : Number.POSITIVE_INFINITY),
      );
      for (const { id } of removed) due.set(id, clock.now() + guildMs - everywhereMs);
    }
  }
  await writeDue(store, registrar, by, clock, Object.fromEntries(due));
  return due;
}

function formsHere(desired: readonly Desired[], scope: RegistrationScope): readonly RegisteredForm[] {
  return desired.find((one) => scopeName(one.scope) === scopeName(scope))?.forms ?? [];
}

/** Looks again after each change: what was changed meanwhile, by whomever, is not done twice. */
async function bring(
  registering: Registering,
  desired: Desired,
  moving: ReadonlyMap<string, number>,
  claim: Claim,
  progress: Progress,
): Promise<void> {
  const { registrar, by } = registering;
  const scope = scopeName(desired.scope);
  const later = (id: string) => (desired.scope === 'everywhere' ? moving.get(id) : undefined);
  await untilSettled(registering, claim, scope, async () => {
    const { entries } = await trying(registering, claim, scope, () =>
      withinPatience(registering, () => scopeDifference(desired, registrar, by)),
    );
    for (const entry of entries) {
      if (entry.state !== 'lacking' && entry.state !== 'differs') continue;
      if (entry.state === 'lacking' && later(entry.form.id) !== undefined) continue;
      await changing(registering, claim, scope, async () => {
        if (entry.state === 'lacking') await registrar.create(desired.scope, entry.form, by);
        else await registrar.update(desired.scope, entry.held, entry.form);
      });
      const done = entry.state === 'lacking' ? 'created' : 'updated';
      progress[done] += 1;
      registering.onProgress?.({ scope, done, name: entry.name, note: '' });
    }
  });
  for (const { id, name } of desired.forms) {
    const at = later(id);
    if (at !== undefined) progress.left.push({ scope, name, does: 'create', at });
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
