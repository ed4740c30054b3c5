/** The manifest: what a catalogue looks like where slash commands are registered, as data that is always the same for the same catalogue. */
import { compareText } from '../base/text.js';
import type { CompiledCommand, CompiledGroup, Entry } from '../catalogue/catalogue.js';
import type { AllLocalized, Localized } from '../commands/command.js';
import { schemaOf } from '../commands/kinds/schema.js';
import type { ArgumentSchema, ArgumentsSchema, RegisteredForm, RegistrationScope } from '../contract/registrar.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import type { Slot } from '../reading/slots.js';

export const manifestVersion = 1;

/** A command or group with where it is registered. */
export interface ManifestEntry extends RegisteredForm {
  /** Whether it is registered for every guild at once. */
  readonly everywhere: boolean;
  /** The guilds for which it is registered by itself, as keys such as `irc/#oddmere`, in order. */
  readonly guilds: readonly string[];
  /** The base name, where this is registered under an alias. */
  readonly aliasOf?: string;
}

/** What the slash commands of a bot look like where they are registered, as data. */
export interface Manifest {
  readonly version: typeof manifestVersion;
  /** By name. */
  readonly commands: readonly ManifestEntry[];
}

/** What goes into a manifest. */
export interface ManifestOptions {
  /** Whether aliases are left out, or registered as commands of their own; left out by default. */
  readonly aliases?: 'left-out' | 'registered';
}

/**
 * The slash-visible shape of a catalogue. The same catalogue gives the same bytes, in whichever order its
 * commands were given; handlers, limits and texts of replies are no part of it.
 *
 * @example
 * const manifest = manifestOf(layer, { aliases: 'registered' });
 */
export function manifestOf(layer: CommandLayer, { aliases = 'left-out' }: ManifestOptions = {}): Manifest {
  const entries = insideOf(layer).current.catalogue.entries.flatMap((entry) => {
    const form = manifestForm(entry);
    if (form === undefined) return [];
    const { isEverywhere: everywhere, guilds } = entryScopes(entry);
    const own: ManifestEntry = { ...form, everywhere, guilds: [...guilds].sort() };
    const others = aliases === 'registered' ? entry.aliases : [];
    return [own, ...others.map((name) => ({ ...own, id: `${form.id}/${name}`, name, aliasOf: entry.word }))];
  });
  return { version: manifestVersion, commands: sortedByName(entries) };
}

/**
 * The scopes of a platform behind a name: `'everywhere'`, a set of guilds from the layer's `scopes`, or a guild by its key or id.
 *
 * @example
 * await differenceTo(manifestOf(layer), registrar, { scopes: scopesNamed(layer, 'staging', registrar.name) });
 */
export function scopesNamed(layer: CommandLayer, name: string, platform: string): readonly RegistrationScope[] {
  if (name === 'everywhere') return ['everywhere'];
  const set = insideOf(layer).scopes[name];
  if (set !== undefined) return guildsOf(platform, set).map((guild) => ({ guild }));
  const [guild = name] = guildsOf(platform, [name]);
  return [{ guild }];
}

function guildsOf(platform: string, guilds: Iterable<string>): readonly string[] {
  return [...guilds].flatMap((guild) => (guild.startsWith(`${platform}/`) ? guild.slice(platform.length + 1) : []));
}

/** Where some of it is registered: a group goes wherever one of its commands does. */
function entryScopes(entry: Entry): { readonly isEverywhere: boolean; readonly guilds: ReadonlySet<string> } {
  if (entry.kind === 'command') return entry.scope;
  const all = slashCommands(entry).map(({ scope }) => scope);
  return {
    isEverywhere: all.some(({ isEverywhere }) => isEverywhere),
    guilds: new Set(all.flatMap(({ guilds }) => [...guilds])),
  };
}

function slashCommands({ commands }: CompiledGroup): readonly CompiledCommand[] {
  return commands.filter(({ surfaces }) => surfaces.has('slash'));
}

function manifestForm(entry: Entry): RegisteredForm | undefined {
  return entry.kind === 'group' ? groupForm(entry) : commandForm(entry);
}

function groupForm(group: CompiledGroup): RegisteredForm | undefined {
  const commands = group.members.flatMap((member) => manifestForm(member) ?? []);
  if (commands.length === 0) return undefined;
  const wheres = new Set(slashCommands(group).map((command) => command.in));
  const [where] = wheres;
  return {
    ...localizedParts(group),
    where: wheres.size === 1 && where !== undefined ? where : 'anywhere',
    commands: sortedByName(commands),
  };
}

function commandForm(command: CompiledCommand): RegisteredForm | undefined {
  if (!command.surfaces.has('slash')) return undefined;
  const permissions = initialPermissions(command);
  const { all } = command.slots;
  return {
    ...localizedParts(command),
    ...(permissions.length === 0 ? {} : { permissions }),
    where: command.in,
    ...(all.length === 0 ? {} : { arguments: argumentsSchema(all, command.localized) }),
  };
}

function localizedParts({ id, word, description, localized = {} }: Entry) {
  const names = pick(localized, ({ name }) => name);
  const descriptions = pick(localized, (one) => one.description);
  return {
    id,
    name: word,
    description,
    ...(names === undefined ? {} : { names }),
    ...(descriptions === undefined ? {} : { descriptions }),
  };
}

/** By locale, in order of the alphabet; nothing where no language has it. */
function pick(
  localized: AllLocalized,
  of: (one: Localized) => string | undefined,
): Readonly<Record<string, string>> | undefined {
  const found = Object.keys(localized)
    .sort()
    .flatMap((locale) => {
      const text = of(localized[locale] ?? {});
      return text === undefined ? [] : [[locale, text] as const];
    });
  return found.length === 0 ? undefined : Object.fromEntries(found);
}

/** What the caller must be permitted, wherever that alone decides. */
function initialPermissions({ requires }: CompiledCommand): readonly string[] {
  const permissions = requires.flatMap(({ requirement: { operands, parameters, traits } }) =>
    operands.length === 0 && traits.permissionOf === 'caller' ? (parameters.permission ?? []) : [],
  );
  return [...new Set(permissions)].sort();
}

function argumentsSchema(slots: readonly Slot[], localized: AllLocalized = {}): ArgumentsSchema {
  const byName = [...slots].sort((a, b) => compareText(a.name, b.name));
  return {
    type: 'object',
    properties: Object.fromEntries(byName.map((slot) => [slot.name, argumentSchema(slot, localized)])),
    required: byName.filter(({ absent }) => absent.as === 'problem').map(({ name }) => name),
    additionalProperties: false,
    // Those that are required first, as slash commands want them.
    'x-order': [...slots.filter(isRequired), ...slots.filter((slot) => !isRequired(slot))].map(({ name }) => name),
  };
}

function isRequired({ absent }: Slot): boolean {
  return absent.as === 'problem';
}

function argumentSchema({ name, kind, complete, description }: Slot, localized: AllLocalized): ArgumentSchema {
  const descriptions = pick(localized, ({ args }) => args?.[name]);
  const suggests = complete !== undefined || (kind.suggest !== undefined && kind.traits?.suggestsAll !== true);
  return {
    ...schemaOf(kind),
    ...(description === undefined ? {} : { description }),
    ...(suggests ? { 'x-completes': true as const } : {}),
    ...(descriptions === undefined ? {} : { 'x-descriptions': descriptions }),
  };
}

function sortedByName<Form extends { readonly name: string }>(forms: readonly Form[]): readonly Form[] {
  return [...forms].sort((a, b) => compareText(a.name, b.name));
}

/** What should be registered in each scope. */
export interface Desired {
  readonly scope: RegistrationScope;
  readonly forms: readonly RegisteredForm[];
}

/**
 * All scopes of a platform that the manifest names, and those that are asked for besides: an empty one may have to be
 * emptied.
 */
export function desiredScopes(
  { commands }: Manifest,
  platform: string,
  besides: readonly RegistrationScope[] = [],
): readonly Desired[] {
  const guilds = new Set([
    ...commands.flatMap((command) => guildsOf(platform, command.guilds)),
    ...besides.flatMap((scope) => (scope === 'everywhere' ? [] : [scope.guild])),
  ]);
  const formsIn = (isIn: (entry: ManifestEntry) => boolean) =>
    commands.filter(isIn).map(({ everywhere: _, guilds: __, aliasOf: ___, ...form }) => form);
  return [
    { scope: 'everywhere', forms: formsIn(({ everywhere }) => everywhere) },
    ...[...guilds]
      .sort()
      .map((guild) => ({ scope: { guild }, forms: formsIn((entry) => entry.guilds.includes(`${platform}/${guild}`)) })),
  ];
}
