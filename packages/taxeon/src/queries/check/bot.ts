/** What looks wrong with a bot that opens: nothing that keeps it from running, and probably not meant. */
import { foundOrMade } from '../../base/bounded-map.js';
import { nearNames } from '../../base/near.js';
import { foldName } from '../../base/text.js';
import { inTime } from '../../base/thenable.js';
import type { Catalogue, CompiledCommand, Entry } from '../../catalogue/catalogue.js';
import { holdsMembers } from '../../commands/arg.js';
import { leavesOf, type Requirement } from '../../commands/requirements.js';
import type { Role } from '../../contract/actors.js';
import type { Place } from '../../contract/places.js';
import type { Platform } from '../../contract/platform.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { type Inside, insideOf, lookFrom } from '../../layer/inside.js';
import { readingContextOf } from '../../pipeline/read.js';
import { Cursor } from '../../reading/cursor.js';
import { readText } from '../../reading/read-text.js';
import { Reading } from '../../reading/reading.js';
import type { Language } from '../../replies/language.js';
import { messageIn } from '../../replies/messages.js';

/** Something to look at, with what mends it. */
export interface BotWarning {
  /** The command's or group's base name; `(layer)` for what is of no command. */
  readonly command: string;
  readonly warning: string;
}

/**
 * Looks for commands on members that ask too little, names that are one letter apart, words that a language lacks; with a
 * platform, for permissions that nothing gives or nobody has, and examples that do not read there.
 *
 * @example
 * import { checkBot } from 'taxeon/queries';
 *
 * for (const { command, warning } of await checkBot(layer, platform)) console.warn(`${command}: ${warning}`);
 */
export async function checkBot(layer: CommandLayer, platform?: Platform): Promise<readonly BotWarning[]> {
  const inside = insideOf(layer);
  const { current, beginning, languages } = inside;
  const { catalogue } = current;
  const { rights } = beginning;
  const known =
    platform?.permissions === undefined ? undefined : [...platform.permissions, ...rights.rolesGiving.keys()];
  const found = new Map<string, Set<string>>([['(layer)', new Set(languages.flatMap(languageWarnings))]]);
  const add = (name: string, warnings: Iterable<string>) => {
    for (const warning of warnings) foundOrMade(found, name, () => new Set()).add(warning);
  };
  for (const command of catalogue.commands) {
    const leaves = command.requires.flatMap(({ requirement }) => [...leavesOf<Requirement>(requirement)]);
    add(command.name, targetWarnings(command, leaves));
    if (known !== undefined) add(command.name, permissionWarnings(leaves, known));
  }
  for (const [entry, warning] of nearPairs(catalogue)) add(entry.name, [warning]);
  if (platform !== undefined)
    for (const [{ name }, warning] of await worldWarnings(inside, platform)) add(name, [warning]);
  return [...found].flatMap(([command, warnings]) => [...warnings].map((warning) => ({ command, warning })));
}

/** A language that is made of messages tells which it has none for. */
function languageWarnings(language: Language & { readonly missing?: readonly string[] }): readonly string[] {
  const { locale, missing = [] } = language;
  if (missing.length === 0) return [];
  const some = missing.slice(0, MOST_MISSING).join(', ');
  const rest = missing.length > MOST_MISSING ? ` and ${missing.length - MOST_MISSING} more` : '';
  return [`the language ${locale} has no words for ${some}${rest}; they are said in English`];
}

const MOST_MISSING = 8;

function* targetWarnings({ slots }: CompiledCommand, leaves: readonly Requirement[]): Iterable<string> {
  const targets = slots.all.filter(holdsMembers);
  const named = targets.map(({ name }) => `“${name}”`).join(' and ');
  if (targets.length === 0) return;
  if (leaves.length === 0) {
    yield `names a member, ${named}, and everybody may run it; say in \`requires\` who may`;
    return;
  }
  for (const { name } of targets) {
    if (leaves.some(({ traits, parameters }) => traits.ranks === true && parameters.argument === name)) continue;
    yield `asks for no rank: who may run it may do it to people above them; add caller.outranks('${name}')`;
  }
  if (!leaves.some(({ traits }) => traits.permissionOf === 'bot')) {
    yield `asks for no permission of the bot; if it changes ${named} on the platform, add bot.can('…')`;
  }
}

function* permissionWarnings(leaves: readonly Requirement[], known: readonly string[]): Iterable<string> {
  for (const { parameters } of leaves) {
    const { permission } = parameters;
    if (permission === undefined || known.includes(permission)) continue;
    const [near] = nearNames(permission, known);
    const mend = near === undefined ? 'give it to one of the bot’s roles in `roles`' : `did you mean ${near}?`;
    yield `asks for the permission ${permission}, which no role gives and the platform does not know; ${mend}`;
  }
}

// Names that are one letter apart: people type one for the other, and are not told.
/** Shorter names are all near each other. */
const SHORTEST = 4;

interface ListedName {
  readonly name: string;
  readonly entry: Entry;
}

/**
 * Pairs among names of one level, by what is left when one letter is taken out of each (Garbe's symmetric deletion), so that
 * not every pair has to be looked at.
 */
function* nearPairs({ entries, groups }: Catalogue): Iterable<readonly [Entry, string]> {
  for (const members of [entries, ...groups.map((group) => group.members)]) {
    const found = new Map<string, ListedName[]>();
    const told = new Set<string>();
    for (const entry of members) {
      for (const name of [entry.word, ...entry.aliases]) {
        for (const key of nearKeys(foldName(name))) {
          const others = foundOrMade(found, key, () => []);
          for (const other of others) {
            const pair = `${other.name} ${name}`;
            if (other.entry === entry || told.has(pair) || !isOneApart(foldName(other.name), foldName(name))) continue;
            told.add(pair);
            yield [entry, `“${name}” is one letter from “${other.name}”; who mistypes one runs the other`];
          }
          others.push({ name, entry });
        }
      }
    }
  }
}

function nearKeys(name: string): readonly string[] {
  if (name.length < SHORTEST) return [];
  return [name, ...Array.from(name, (_, at) => name.slice(0, at) + name.slice(at + 1))];
}

/** One letter more, less or other, or two that have changed places. */
function isOneApart(one: string, other: string): boolean {
  if (Math.abs(one.length - other.length) > 1) return false;
  let from = 0;
  while (from < one.length && one[from] === other[from]) from++;
  let [end, otherEnd] = [one.length, other.length];
  while (end > from && otherEnd > from && one[end - 1] === other[otherEnd - 1]) {
    end--;
    otherEnd--;
  }
  const [left, right] = [one.slice(from, end), other.slice(from, otherEnd)];
  // Numbered names are meant to be alike.
  if (/\d/.test(left + right)) return false;
  return (left.length <= 1 && right.length <= 1) || (left.length === 2 && left === [...right].reverse().join(''));
}

// What only a place tells: examples that do not read there, and permissions that nobody has.
/** Of every command, by what is wrong with it. */
async function worldWarnings(
  inside: Inside,
  platform: Platform,
): Promise<readonly (readonly [CompiledCommand, string])[]> {
  const { catalogue } = inside.current;
  const guilds = (await lookedUp(inside, () => platform.guilds?.())) ?? [];
  const roles = (
    await Promise.all(guilds.map((guild) => lookedUp(inside, () => platform.directory.roles(guild))))
  ).flat();
  const [guild] = guilds;
  const [channel] =
    guild === undefined ? [] : ((await lookedUp(inside, () => platform.directory.channels(guild))) ?? []);
  const place: Place | undefined = guild && channel && { kind: 'guild', guild, channel };
  const found: (readonly [CompiledCommand, string])[] = [];
  for (const command of catalogue.commands) {
    for (const warning of lackingWarnings(command, roles as readonly Role[], platform, inside))
      found.push([command, warning]);
    if (place === undefined) continue;
    for (const warning of await exampleWarnings(command, place, platform, inside)) found.push([command, warning]);
  }
  return found;
}

/** Where roles tell what they give. */
function* lackingWarnings(
  { requires }: CompiledCommand,
  roles: readonly Role[],
  platform: Platform,
  { beginning }: Inside,
): Iterable<string> {
  if (roles.length === 0 || roles.some(({ permissions }) => permissions === undefined)) return;
  const leaves = requires.flatMap(({ requirement }) => [...leavesOf<Requirement>(requirement)]);
  for (const { traits, parameters } of leaves) {
    const { permission } = parameters;
    const { permissionOf } = traits;
    if (permission === undefined || permissionOf !== 'caller' || beginning.rights.rolesGiving.has(permission)) continue;
    // What the platform does not know is told as that.
    if (platform.permissions?.includes(permission) === false) continue;
    if (roles.some(({ permissions }) => permissions?.has(permission))) continue;
    yield `asks for the permission ${permission}, which no role in any guild gives; nobody can run it`;
  }
}

/** Nobody is looked up who is not there: an example names people, roles and channels that are. */
async function exampleWarnings(
  { name, slots, examples = [] }: CompiledCommand,
  place: Place,
  platform: Platform,
  inside: Inside,
): Promise<readonly string[]> {
  const caller = { kind: 'console', id: 'console', name: 'console' } as const;
  const warnings: string[] = [];
  for (const example of examples) {
    const text = `${name} ${example}`;
    const input = { surface: 'console', caller, place, text, at: inside.basis.clock.now() } as const;
    const heard = await lookFrom(inside, input, platform, 0);
    const reading = new Reading(slots, readingContextOf(heard), false);
    await lookedUp(inside, () => readText(new Cursor(text, name.length), reading));
    const [problem] = reading.problems ?? [];
    if (problem === undefined) continue;
    const told = messageIn(undefined, problem);
    warnings.push(`the example “${example}” does not read: ${told}`);
  }
  return warnings;
}

/** What a platform does not answer is not known. */
async function lookedUp<T>({ basis }: Inside, ask: () => T): Promise<Awaited<T> | undefined> {
  try {
    return (await inTime(basis.clock, basis.patienceMs, ask)) as Awaited<T>;
  } catch (error) {
    basis.log.warn({ error }, 'Something could not be looked at');
    return undefined;
  }
}
