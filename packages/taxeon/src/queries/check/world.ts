/** What only a place tells: examples that do not read there, and permissions that nobody has. */

import { inTime } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import { leavesOf, type Requirement } from '../../commands/requirements.js';
import type { Role } from '../../contract/actors.js';
import type { Place } from '../../contract/places.js';
import type { Platform } from '../../contract/platform.js';
import { type Inside, lookFrom } from '../../layer/inside.js';
import { readingContextOf } from '../../pipeline/read.js';
import { Cursor } from '../../reading/cursor.js';
import { readText } from '../../reading/read-text.js';
import { Reading } from '../../reading/reading.js';
import { messageIn } from '../../replies/messages.js';

/** Of every command, by what is wrong with it. */
export async function worldWarnings(
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
