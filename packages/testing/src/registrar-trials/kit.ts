/** What a trial of a registrar is made of: a place that holds nothing, and a registrar that may change it. */

import type { MaybePromise } from 'taxeon';
import {
  type ArgumentsSchema,
  type HeldCommand,
  isConflict,
  isPlatformError,
  type PlatformError,
  type RegisteredForm,
  type Registrar,
  type RegistrationScope,
} from 'taxeon/platform';
import type { Trial } from '../trial.js';
import { isObject } from '../values.js';
/** A place that holds nothing, as a registrar sees it. */
export interface OpenedRegistrar {
  readonly registrar: Registrar;
  /** The id of a guild that is there. */
  readonly guild: string;
  /** The same place, for one who may not register there. */
  readonly powerless?: Registrar;
  /** Makes the place ask to wait at the next change, as it does after too many. */
  hurry?(): MaybePromise<void>;
  close?(): MaybePromise<void>;
}

/** What a suite needs of a registrar. */
export interface RegistrarProbe {
  /** A fresh place: for tests, one that takes a few dozen changes at once. */
  open(): MaybePromise<OpenedRegistrar>;
}

export function registrarTrial(
  name: string,
  run: (opened: OpenedRegistrar) => Promise<string | undefined | void>,
): Trial<RegistrarProbe> {
  return {
    name,
    async run({ open }) {
      const opened = await open();
      try {
        return (await run(opened)) ?? undefined;
      } finally {
        await opened.close?.();
      }
    },
  };
}

/** Who registers in the trials. */
export const me = 'trial';

export function trialForm(name: string, description = `Does ${name}`, id = name): RegisteredForm {
  return { id, name, description, where: 'guild' };
}

const argumentsOf: ArgumentsSchema = {
  type: 'object',
  properties: {
    who: { type: 'string', description: 'Who pays', 'x-kind': 'member' },
    pence: { type: 'integer', minimum: 1, maximum: 500 },
    tool: { type: 'string', enum: ['drill', 'ladder'], 'x-descriptions': { pl: 'Narzędzie' } },
    tags: { type: 'array', maxItems: 3, items: { type: 'string', maxLength: 20 } },
  },
  required: ['who', 'pence'],
  additionalProperties: false,
  'x-order': ['who', 'pence', 'tool', 'tags'],
};

/** One with all that a form may have. */
export const fullForm: RegisteredForm = {
  id: 'fine',
  name: 'fine',
  description: 'Charge somebody *who* is <late> & "sorry"; %s \\ {x}',
  names: { pl: 'kara' },
  descriptions: { pl: 'Nalicz opłatę' },
  permissions: ['fine'],
  where: 'guild',
  arguments: argumentsOf,
};

/** A group with one command in it. */
export const groupForm: RegisteredForm = {
  ...trialForm('overdue', 'What is late'),
  commands: [trialForm('list'), { ...trialForm('remind'), arguments: argumentsOf }],
};

/** The one command of a name that must be held. */
export async function heldAs(registrar: Registrar, scope: RegistrationScope, name: string): Promise<HeldCommand> {
  const found = (await registrar.read(scope)).filter(({ form }) => form.name === name);
  if (found.length !== 1) throw new Error(`${name} is held ${found.length} times`);
  return found[0] as HeldCommand;
}

export async function heldNames(registrar: Registrar, scope: RegistrationScope): Promise<string> {
  return (await registrar.read(scope))
    .map(({ form }) => form.name)
    .sort()
    .join(', ');
}

export function expectSameInOrder(actual: unknown, expected: unknown, what: string): void {
  const [is, should] = [jsonInOrder(actual), jsonInOrder(expected)];
  if (is !== should) throw new Error(`${what}: ${is}, expected ${should}`);
}

/** As JSON, whatever the order of its fields. */
function jsonInOrder(value: unknown): string {
  return JSON.stringify(value, (_, one) =>
    isObject(one) ? Object.fromEntries(Object.entries(one).sort(([a], [b]) => (a < b ? -1 : 1))) : one,
  );
}

export async function expectConflict(what: string, does: () => unknown): Promise<void> {
  const error = await errorOf(what, does);
  if (!isConflict(error)) throw new Error(`${what} fails with what is no Conflict: ${error}`);
}

export async function expectCode(what: string, code: string, does: () => unknown): Promise<PlatformError> {
  const error = await errorOf(what, does);
  if (isPlatformError(error) && error.code === code) return error;
  throw new Error(`${what} fails with ${isPlatformError(error) ? error.code : error}, expected ${code}`);
}

async function errorOf(what: string, does: () => unknown): Promise<unknown> {
  try {
    await does();
  } catch (error) {
    return error;
  }
  throw new Error(`${what} is told as done`);
}
