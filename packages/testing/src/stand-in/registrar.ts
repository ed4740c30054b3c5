/** Where a simulated platform holds its slash commands: guilds at once, everywhere slowly, under rate limits. */

import { type Allowance, type Clock, type Duration, systemClock } from 'taxeon';
import {
  allowanceOf,
  Conflict,
  type HeldCommand,
  millisecondsOf,
  PlatformError,
  type RegisteredForm,
  type Registrar,
  type RegistrarLimits,
  type RegistrationScope,
} from 'taxeon/platform';
import { scopeName } from 'taxeon/registration';
/** All that is held, as data that fits in a file. By scope: `everywhere`, `guild oddmere`. */
export interface RegistrarState {
  /** Counts every change. */
  readonly changes: number;
  readonly held: Readonly<Record<string, readonly HeldCommand[]>>;
}

/** A place where nothing is registered. */
export const emptyRegistrar: RegistrarState = { changes: 0, held: {} };

/** What a simulated place for commands knows, and how it behaves. */
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
  /** How many changes it takes in how long; `'8 in 10s'` by default. */
  readonly rate?: Allowance;
  /** How long it takes until people see a change; 40 minutes everywhere, and none in a guild. */
  readonly delay?: { readonly everywhere: Duration; readonly guild: Duration };
  /** Whether it tells in which scopes something is registered; yes by default. */
  readonly marks?: boolean;
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
const DELAY = { everywhere: '40m', guild: { ms: 0 } } as const;
const RATE = '8 in 10s';

/**
 * Makes a simulated place where commands are registered.
 *
 * @example
 * const registrar = standInRegistrar({ guilds: ['oddmere'], tokens: { demo: ['look', 'register'] }, token: 'demo' });
 */
export function standInRegistrar(options: StandInRegistrarOptions): Registrar {
  const { guilds, tokens, token, clock = systemClock, limits = LIMITS, rate = RATE } = options;
  const { delay = DELAY, marks = true } = options;
  const { uses, windowMs } = allowanceOf(rate, 'standInRegistrar, rate');
  const delayMs = {
    everywhere: millisecondsOf(delay.everywhere, 'standInRegistrar, delay.everywhere'),
    guild: millisecondsOf(delay.guild, 'standInRegistrar, delay.guild'),
  };
  const state = options.state ?? inMemory();
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
    if (scope === 'everywhere' || guilds.includes(scope.guild)) return;
    throw new PlatformError('platform.gone', `There is no guild "${scope.guild}", or the bot is not in it`);
  }

  function takeTurn(): void {
    const now = clock.now();
    while (changedAt.length > 0 && (changedAt[0] as number) <= now - windowMs) changedAt.shift();
    if (changedAt.length >= uses) {
      const retryAfterMs = (changedAt[0] as number) + windowMs - now;
      throw new PlatformError('platform.slowed', `No more changes than ${rate}`, { retryAfterMs });
    }
    changedAt.push(now);
  }

  function heldIn(scope: RegistrationScope): readonly HeldCommand[] {
    return state.read().held[scopeName(scope)] ?? [];
  }

  function write(scope: RegistrationScope, change: (held: readonly HeldCommand[]) => readonly HeldCommand[]): void {
    const before = state.read();
    const name = scopeName(scope);
    state.write({ changes: before.changes + 1, held: { ...before.held, [name]: change(before.held[name] ?? []) } });
  }

  function made(scope: RegistrationScope, id: string, form: RegisteredForm, by: string): HeldCommand {
    const visibleAt = clock.now() + (scope === 'everywhere' ? delayMs.everywhere : delayMs.guild);
    return { id, version: `v${state.read().changes + 1}`, by, form, visibleAt };
  }

  /** The one that a person has seen, if it is still that one. */
  function current(scope: RegistrationScope, seen: HeldCommand): HeldCommand {
    const found = heldIn(scope).find(({ id }) => id === seen.id);
    if (found?.version === seen.version) return found;
    throw new Conflict(`${scopeName(scope)}: ${seen.form.name} was changed meanwhile`);
  }

  async function call<T>(authorisation: 'look' | 'register', scope: RegistrationScope, act: () => T): Promise<T> {
    mayDo(authorisation);
    mustBe(scope);
    if (authorisation === 'register') takeTurn();
    return act();
  }

  return {
    name: 'stand-in',
    limits,
    delayMs,
    read: (scope) => call('look', scope, () => heldIn(scope)),
    ...(marks ? { scopes: (by: string) => call('look', 'everywhere', () => scopesHeldBy(state.read(), by)) } : {}),
    create: (scope, form, by) =>
      call('register', scope, () => {
        if (heldIn(scope).some((held) => held.form.name === form.name)) {
          throw new Conflict(`${scopeName(scope)}: there is a command ${form.name} already`);
        }
        write(scope, (held) => [...held, made(scope, `c${state.read().changes + 1}`, form, by)]);
      }),
    update: (scope, seen, form) =>
      call('register', scope, () => {
        const { id, by } = current(scope, seen);
        write(scope, (held) => held.map((one) => (one.id === id ? made(scope, id, form, by) : one)));
      }),
    remove: (scope, seen) =>
      call('register', scope, () => {
        const { id } = current(scope, seen);
        write(scope, (held) => held.filter((one) => one.id !== id));
      }),
  };
}

function scopesHeldBy({ held }: RegistrarState, by: string): RegistrationScope[] {
  return Object.entries(held)
    .filter(([, all]) => all.some((one) => one.by === by))
    .map(([name]) => (name === 'everywhere' ? name : { guild: name.slice('guild '.length) }));
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
