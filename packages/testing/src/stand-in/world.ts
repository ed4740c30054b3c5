/** The small world that a stand-in simulates, as data that fits in a YAML or JSON file. */
import * as v from 'valibot';

const id = v.pipe(v.string('give a text'), v.regex(/^[a-z0-9][a-z0-9_-]*$/, 'ids are small letters, digits, - and _'));
const strings = v.array(v.string('give a text'), 'give a list');

const role = v.strictObject({
  /** The name by default. */
  id: v.optional(id),
  name: v.string('name the role'),
  /** Whether only who manages the guild can make or rename it. */
  protected: v.optional(v.boolean(), false),
  /** Higher is above. */
  rank: v.pipe(v.number('give a whole number'), v.integer('give a whole number')),
  permissions: v.optional(strings, []),
});

const guild = v.strictObject({
  id,
  name: v.string('name the guild'),
  owner: v.optional(id),
  channels: v.pipe(v.array(id, 'give a list'), v.minLength(1, 'name at least one channel')),
  roles: v.optional(v.array(role, 'give a list'), []),
  /** Role names by the member's id. The bot is a member like any other. */
  members: v.record(id, strings, 'give role names by member id'),
});

const person = v.strictObject({ id, name: v.string('name the person'), bot: v.optional(v.boolean(), false) });

const world = v.strictObject({
  bot: person,
  /** All permissions that the platform knows; a bot that requires another is told. */
  permissions: v.optional(strings),
  people: v.array(person, 'give a list'),
  guilds: v.array(guild, 'give a list'),
});

/** People, guilds, roles and channels of a simulated platform. */
export type World = v.InferInput<typeof world>;
export type CheckedWorld = v.InferOutput<typeof world>;

/** A world that does not hold together, with every problem and where it is. */
export class WorldError extends Error {
  override readonly name = 'WorldError';

  constructor(readonly problems: readonly string[]) {
    super(`The simulated world is wrong: ${problems.join('; ')}`);
  }
}

/**
 * Checks data that came from a file.
 *
 * @throws WorldError naming each problem and its place: `guilds.0.members.ines: there is no role "stewart"`.
 *
 * @example
 * checkWorld({ bot: { id: 'mallet', name: 'Mallet' }, people: [], guilds: [] });
 */
export function checkWorld(data: unknown): CheckedWorld {
  const parsed = v.safeParse(world, data);
  if (!parsed.success) {
    throw new WorldError(parsed.issues.map((issue) => `${v.getDotPath(issue) ?? 'the whole'}: ${issue.message}`));
  }
  const problems = [...danglingNames(parsed.output)];
  if (problems.length > 0) throw new WorldError(problems);
  return parsed.output;
}

function* danglingNames({ bot, people, guilds }: CheckedWorld): Iterable<string> {
  const known = new Set([bot.id, ...people.map((person) => person.id)]);
  for (const [index, { members, roles, owner }] of guilds.entries()) {
    const roleNames = new Set(roles.map((role) => role.name));
    if (owner !== undefined && !known.has(owner)) yield `guilds.${index}.owner: there is no person "${owner}"`;
    for (const [member, held] of Object.entries(members)) {
      if (!known.has(member)) yield `guilds.${index}.members: there is no person "${member}"`;
      for (const name of held) {
        if (!roleNames.has(name)) yield `guilds.${index}.members.${member}: there is no role "${name}"`;
      }
    }
  }
}
