/** How what a platform holds departs from what is declared, for a person to decide on. */

import { isRecord } from '../base/fields.js';
import { isHeldList } from '../contract/check-held.js';
import { PlatformError } from '../contract/platform.js';
import type {
  ArgumentSchema,
  HeldCommand,
  RegisteredForm,
  Registrar,
  RegistrarLimits,
  RegistrationScope,
} from '../contract/registrar.js';
import { scopeName } from '../contract/registrar.js';
import type { Store } from '../contract/store.js';
import { type Desired, desiredScopes, type Manifest } from '../queries/manifest.js';
import type { RegistrationProblem } from './errors.js';
import { touchedGuilds } from './remembered.js';

/** One field that differs: `description`, `arguments.properties.keep.maximum`. */
export interface FieldDifference {
  readonly field: string;
  readonly registered: unknown;
  readonly declared: unknown;
}

/** One command in one scope. What something else has registered is `foreign`, and left alone. */
export type DifferenceEntry =
  | { readonly state: 'lacking'; readonly name: string; readonly form: RegisteredForm }
  | {
      readonly state: 'differs';
      readonly name: string;
      readonly form: RegisteredForm;
      readonly held: HeldCommand;
      readonly fields: readonly FieldDifference[];
    }
  | { readonly state: 'leftOver'; readonly name: string; readonly held: HeldCommand }
  | { readonly state: 'same'; readonly name: string; readonly held: HeldCommand }
  | { readonly state: 'foreign'; readonly name: string; readonly held: HeldCommand };

/** How one scope departs from what is declared. */
export interface ScopeDifference {
  readonly scope: RegistrationScope;
  /** How long until people see a change, in milliseconds. */
  readonly delayMs: number;
  readonly entries: readonly DifferenceEntry[];
}

/** How what a platform holds departs from what is declared. */
export interface Difference {
  readonly scopes: readonly ScopeDifference[];
  /** Everything that is beyond the platform's limits. While there is any, nothing is carried out. */
  readonly problems: readonly RegistrationProblem[];
  /** What is allowed, and probably not meant. */
  readonly warnings: readonly string[];
}

/** Who registers, where nothing else is said: commands of others are left alone. */
export const registersAs = 'taxeon';

/** What is compared, and in whose name. */
export interface DifferenceOptions {
  /** Only these; all that the manifest names by default. */
  readonly scopes?: readonly RegistrationScope[];
  /** Guilds to look at besides those that the manifest names. */
  readonly guilds?: readonly string[];
  /** Under which name the commands are registered; `'taxeon'` by default. */
  readonly by?: string;
  /**
   * Where it is kept that one process registers, what was registered last, and in which guilds something was ever
   * registered; without one, nobody else is asked, and only the platform's own marks tell.
   */
  readonly store?: Store;
}

/**
 * Reads what the platform holds and compares it with the manifest, in every scope that the manifest names and in every
 * guild where something was registered before. Changes nothing.
 *
 * @throws PlatformError as the registrar does, and `platform.failed` where it answers with nonsense.
 *
 * @example
 * const { scopes, problems } = await differenceTo(manifestOf(layer), registrar);
 */
export async function differenceTo(
  manifest: Manifest,
  registrar: Registrar,
  options: DifferenceOptions = {},
): Promise<Difference> {
  const { scopes, by = registersAs, store } = options;
  const touched = scopes === undefined ? await touchedGuilds(store, registrar, by) : [];
  const desired = chosenScopes(manifest, registrar, options, touched);
  return differenceBetween(manifest, desired, registrar, by);
}

export async function differenceBetween(
  manifest: Manifest,
  desired: readonly Desired[],
  registrar: Registrar,
  by: string,
): Promise<Difference> {
  const scopes: ScopeDifference[] = [];
  for (const one of desired) scopes.push(await scopeDifference(one, registrar, by));
  return {
    scopes,
    problems: desired.flatMap((one) => [...limitProblems(one, registrar.limits)]),
    warnings: [...doubles(manifest)],
  };
}

/** The scopes that are meant, with what should be in each, as the platform takes it. */
export function chosenScopes(
  manifest: Manifest,
  { name, limits }: Pick<Registrar, 'name' | 'limits'>,
  { scopes, guilds = [] }: DifferenceOptions,
  touched: readonly string[],
): readonly Desired[] {
  const besides = [...(scopes ?? []), ...[...guilds, ...touched].map((guild) => ({ guild }))];
  const all = desiredScopes(manifest, name, besides).map(({ scope, forms }) => ({
    scope,
    forms: forms.map((form) => completedForm(form, limits.choicesPerArgument ?? Number.POSITIVE_INFINITY)),
  }));
  if (scopes === undefined) return all;
  const wanted = new Set(scopes.map(scopeName));
  return all.filter(({ scope }) => wanted.has(scopeName(scope)));
}

/** With more choices than the platform takes, an argument is completed while it is typed. */
function completedForm(form: RegisteredForm, most: number): RegisteredForm {
  const { arguments: declared, commands } = form;
  const properties = Object.entries(declared?.properties ?? {});
  const isOver = properties.some(([, { enum: labels = [] }]) => labels.length > most);
  const completed = ({ enum: labels, ...schema }: ArgumentSchema): ArgumentSchema =>
    labels === undefined || labels.length <= most
      ? { ...schema, ...(labels === undefined ? {} : { enum: labels }) }
      : { ...schema, 'x-completes': true };
  return {
    ...form,
    ...(declared === undefined || !isOver
      ? {}
      : {
          arguments: {
            ...declared,
            properties: Object.fromEntries(properties.map(([name, schema]) => [name, completed(schema)])),
          },
        }),
    ...(commands === undefined ? {} : { commands: commands.map((one) => completedForm(one, most)) }),
  };
}

export async function scopeDifference(
  { scope, forms }: Desired,
  registrar: Registrar,
  by: string,
): Promise<ScopeDifference> {
  const held = checkedHeld(await registrar.read(scope), scope);
  const own = held.filter((one) => one.by === by);
  const entries: DifferenceEntry[] = [];
  const matched = new Set<HeldCommand>();
  for (const form of forms) {
    // By its id first, so that a rename is a change, and not one more command.
    const match = own.find((one) => one.form.id === form.id) ?? held.find((one) => one.form.name === form.name);
    if (match === undefined) {
      entries.push({ state: 'lacking', name: form.name, form });
      continue;
    }
    matched.add(match);
    const fields = [...fieldDifferences(match.form, form)];
    if (match.by !== by) entries.push({ state: 'foreign', name: form.name, held: match });
    else if (fields.length === 0) entries.push({ state: 'same', name: form.name, held: match });
    else entries.push({ state: 'differs', name: form.name, form, held: match, fields });
  }
  for (const one of held) {
    if (!matched.has(one))
      entries.push({ state: one.by === by ? 'leftOver' : 'foreign', name: one.form.name, held: one });
  }
  const delayMs = scope === 'everywhere' ? registrar.delayMs.everywhere : registrar.delayMs.guild;
  return { scope, delayMs, entries: entries.sort((a, b) => (a.name < b.name ? -1 : 1)) };
}

/** @throws PlatformError where it is none */
function checkedHeld(held: unknown, scope: RegistrationScope): readonly HeldCommand[] {
  if (isHeldList(held)) return held;
  throw new PlatformError('platform.failed', `The platform's answer for ${scopeName(scope)} is no list of commands`);
}

/** Every field that differs, at any depth; lists are compared whole. */
export function* fieldDifferences(registered: unknown, declared: unknown, field = ''): Iterable<FieldDifference> {
  if (isRecord(registered) && isRecord(declared)) {
    for (const name of new Set([...Object.keys(registered), ...Object.keys(declared)])) {
      yield* fieldDifferences(registered[name], declared[name], field === '' ? name : `${field}.${name}`);
    }
  } else if (isNamedList(registered) && isNamedList(declared)) {
    yield* fieldDifferences(formsByName(registered), formsByName(declared), field);
  } else if (JSON.stringify(registered) !== JSON.stringify(declared)) yield { field, registered, declared };
}

/** The commands of a group. */
function isNamedList(value: unknown): value is readonly { readonly name: string }[] {
  return Array.isArray(value) && value.length > 0 && value.every((one) => typeof one?.name === 'string');
}

function formsByName(list: readonly { readonly name: string }[]): Readonly<Record<string, unknown>> {
  return Object.fromEntries(list.map((one) => [one.name, one]));
}

function* limitProblems({ scope, forms }: Desired, limits: RegistrarLimits): Iterable<RegistrationProblem> {
  const where = scopeName(scope);
  const over = (count: number, most: number | undefined) => most !== undefined && count > most;
  if (over(forms.length, limits.commandsPerScope)) {
    const problem = `has ${forms.length} commands; the platform takes ${limits.commandsPerScope}`;
    yield { scope: where, command: '(all)', field: 'commands', problem };
  }
  for (const form of forms) {
    for (const { command, field, problem } of formProblems(form, form.name, limits, over)) {
      yield { scope: where, command, field, problem };
    }
  }
}

function* formProblems(
  form: RegisteredForm,
  command: string,
  limits: RegistrarLimits,
  over: (count: number, most: number | undefined) => boolean,
  level = 0,
): Iterable<Omit<RegistrationProblem, 'scope'>> {
  const texts: [string, string, number | undefined][] = [
    ['name', form.name, limits.nameLength],
    ['description', form.description, limits.descriptionLength],
    ...Object.entries(form.names ?? {}).map(
      ([at, text]) => [`names.${at}`, text, limits.nameLength] as [string, string, number | undefined],
    ),
    ...Object.entries(form.descriptions ?? {}).map(
      ([at, text]) => [`descriptions.${at}`, text, limits.descriptionLength] as [string, string, number | undefined],
    ),
  ];
  const args = Object.entries(form.arguments?.properties ?? {});
  for (const [name, { description = '' }] of args) {
    texts.push(
      [`args.${name}`, name, limits.nameLength],
      [`args.${name}.description`, description, limits.descriptionLength],
    );
  }
  for (const [field, text, most] of texts) {
    if (over(text.length, most))
      yield { command, field, problem: `has ${text.length} characters; the platform takes ${most}` };
  }
  if (over(args.length, limits.argumentsPerCommand)) {
    yield { command, field: 'args', problem: `are ${args.length}; the platform takes ${limits.argumentsPerCommand}` };
  }
  const inner = form.commands ?? [];
  if (inner.length > 0 && over(level + 1, limits.groupLevels)) {
    const problem = `are in ${level + 1} groups; the platform takes ${limits.groupLevels}`;
    yield { command, field: 'commands', problem };
  }
  if (over(inner.length, limits.commandsPerGroup)) {
    yield { command, field: 'commands', problem: `are ${inner.length}; the platform takes ${limits.commandsPerGroup}` };
  }
  for (const one of inner) yield* formProblems(one, `${command} ${one.name}`, limits, over, level + 1);
}

function* doubles({ commands }: Manifest): Iterable<string> {
  for (const { name, everywhere, guilds } of commands) {
    if (everywhere && guilds.length > 0) {
      yield `${name} is registered everywhere and for ${guilds.join(', ')}: people there will see it twice`;
    }
  }
}
