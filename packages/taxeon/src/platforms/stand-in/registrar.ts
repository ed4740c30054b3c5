/** Where a simulated platform holds its slash commands: guilds at once, everywhere slowly, under rate limits, with faults on demand. */
import { type Clock, systemClock } from '../../base/time.js';
import { PlatformError } from '../../contract/platform.js';
import {
  Conflict,
  type HeldCommand,
  type RegisteredForm,
  type Registrar,
  type RegistrarLimits,
  type RegistrationScope,
  scopeName,
} from '../../contract/registrar.js';

/** All that is held, as data that fits in a file. By scope: `global`, `guild oddmere`. */
export interface RegistrarState {
  /** Counts every change. */
  readonly changes: number;
  readonly held: Readonly<Record<string, readonly HeldCommand[]>>;
}

export const emptyRegistrar: RegistrarState = { changes: 0, held: {} };

/** What a call meets instead of an answer, or besides one. */
export type RegistrarFault =
  | { readonly kind: 'error'; readonly error: Error }
  /** It is done, and then the answer is lost. */
  | { readonly kind: 'drop' }
  /** A read gives what was there one change before. */
  | { readonly kind: 'stale' }
  | { readonly kind: 'nonsense'; readonly answer: unknown }
  | { readonly kind: 'delay'; readonly ms: number };

export type RegistrarCall = 'read' | 'create' | 'update' | 'remove';

export interface StandInRegistrarOptions {
  /** Ids of the guilds that there are. */
  readonly guilds: readonly string[];
  /** What each token may do: `look` at what is held, `register` to change it. */
  readonly tokens: Readonly<Record<string, readonly string[]>>;
  readonly token: string;
  readonly clock?: Clock;
  /** What is held; a place of its own in memory by default. */
  readonly state?: { read(): RegistrarState; write(state: RegistrarState): void };
  readonly limits?: RegistrarLimits;
  /** How many changes it takes in how long. */
  readonly rate?: { readonly changes: number; readonly perMs: number };
  /** Asked before every call; its fault happens. */
  fault?(call: RegistrarCall, scope: RegistrationScope): RegistrarFault | undefined;
}

/** Numbers of its own. */
const LIMITS: RegistrarLimits = {
  commandsPerScope: 60,
  nameLength: 28,
  descriptionLength: 90,
  argumentsPerCommand: 18,
  choicesPerArgument: 30,
  commandsPerGroup: 18,
  groupLevels: 3,
};
const GLOBAL_DELAY_MS = 40 * 60_000;
const RATE = { changes: 6, perMs: 5000 };

/**
 * Makes a simulated place where commands are registered.
 *
 * @example
 * const registrar = standInRegistrar({ guilds: ['oddmere'], tokens: { demo: ['look', 'register'] }, token: 'demo' });
 */
export function standInRegistrar(options: StandInRegistrarOptions): Registrar {
  const { guilds, tokens, token, clock = systemClock, limits = LIMITS, rate = RATE } = options;
  const state = options.state ?? inMemory();
  let before: RegistrarState | undefined;
  const changedAt: number[] = [];

  function mayDo(authorisation: string): void {
    const own = tokens[token];
    if (own === undefined) throw new PlatformError('platform.forbidden', 'The token is not known here');
    if (own.includes(authorisation)) return;
    throw new PlatformError(
      'platform.forbidden',
      `The token has no authorisation "${authorisation}"; give it that one`,
    );
  }

  function mustBe(scope: RegistrationScope): void {
    if (scope === 'global' || guilds.includes(scope.guild)) return;
    throw new PlatformError('platform.gone', `There is no guild "${scope.guild}", or the bot is not in it`);
  }

  function takeTurn(): void {
    const now = clock.now();
    while (changedAt.length > 0 && (changedAt[0] as number) <= now - rate.perMs) changedAt.shift();
    if (changedAt.length >= rate.changes) {
      const retryAfterMs = (changedAt[0] as number) + rate.perMs - now;
      throw new PlatformError('platform.slowed', `No more than ${rate.changes} changes in ${rate.perMs} ms`, {
        retryAfterMs,
      });
    }
    changedAt.push(now);
  }

  function heldIn(scope: RegistrationScope): readonly HeldCommand[] {
    return state.read().held[scopeName(scope)] ?? [];
  }

  function write(scope: RegistrationScope, change: (held: readonly HeldCommand[]) => readonly HeldCommand[]): void {
    before = state.read();
    const name = scopeName(scope);
    state.write({ changes: before.changes + 1, held: { ...before.held, [name]: change(before.held[name] ?? []) } });
  }

  function made(scope: RegistrationScope, id: string, form: RegisteredForm, by: string): HeldCommand {
    const visibleAt = clock.now() + (scope === 'global' ? GLOBAL_DELAY_MS : 0);
    return { id, version: `v${state.read().changes + 1}`, by, form, visibleAt };
  }

  /** The one that somebody has seen, if it is still that one. */
  function current(scope: RegistrationScope, seen: HeldCommand): HeldCommand {
    const found = heldIn(scope).find(({ id }) => id === seen.id);
    if (found?.version === seen.version) return found;
    throw new Conflict(`${seen.form.name} in ${scopeName(scope)} was changed meanwhile`);
  }

  async function call<T>(what: RegistrarCall, scope: RegistrationScope, act: () => T): Promise<T> {
    const fault = options.fault?.(what, scope);
    if (fault?.kind === 'error') throw fault.error;
    if (fault?.kind === 'delay') await new Promise<void>((done) => (clock.after ?? setTimer)(fault.ms, done));
    mayDo(what === 'read' ? 'look' : 'register');
    mustBe(scope);
    if (fault?.kind === 'nonsense') return fault.answer as T;
    if (fault?.kind === 'stale' && before !== undefined) return (before.held[scopeName(scope)] ?? []) as T;
    if (what !== 'read') takeTurn();
    const done = act();
    if (fault?.kind === 'drop') {
      throw new PlatformError('platform.unreachable', 'The connection was lost', { mayHaveArrived: true });
    }
    return done;
  }

  return {
    name: 'stand-in',
    limits,
    delayMs: { global: GLOBAL_DELAY_MS, guild: 0 },
    read: (scope) => call('read', scope, () => heldIn(scope)),
    create: (scope, form, by) =>
      call('create', scope, () => {
        if (heldIn(scope).some((held) => held.form.name === form.name)) {
          throw new Conflict(`${scopeName(scope)} holds a command ${form.name} already`);
        }
        write(scope, (held) => [...held, made(scope, `c${state.read().changes + 1}`, form, by)]);
      }),
    update: (scope, seen, form) =>
      call('update', scope, () => {
        const { id, by } = current(scope, seen);
        write(scope, (held) => held.map((one) => (one.id === id ? made(scope, id, form, by) : one)));
      }),
    remove: (scope, seen) =>
      call('remove', scope, () => {
        const { id } = current(scope, seen);
        write(scope, (held) => held.filter((one) => one.id !== id));
      }),
  };
}

function setTimer(ms: number, done: () => void): void {
  setTimeout(done, ms);
}

function inMemory(): { read(): RegistrarState; write(state: RegistrarState): void } {
  let state = emptyRegistrar;
  return {
    read: () => state,
    write(next) {
      state = next;
    },
  };
}
