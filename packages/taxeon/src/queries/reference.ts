/** A bot's own commands, for its people: as data, in one language, as a person of a role sees them. */
import { foundOrMade } from '../base/bounded-map.js';
import { visibleText } from '../base/text.js';
import type { CompiledCommand, Entry } from '../catalogue/catalogue.js';
import type { Member, User } from '../contract/actors.js';
import type { GuildPlace } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf, lookFrom } from '../layer/inside.js';
import { listingFor } from '../pipeline/overview.js';
import { limitIn, needsIn, sayInHelp } from '../replies/help.js';
import { sayInReply } from '../replies/phrases.js';
import { standing } from './access-table.js';
import { type CommandHelp, type HelpView, helpOn } from './help/data.js';
import { examplesHere } from './help/for.js';

/** Whose commands, and in which language. */
export interface ReferenceOptions {
  /** Whose commands: of a person who holds just this role, by id or name, or of a member; everybody's by default. */
  readonly as?: string | Member;
  /** BCP 47; the guild's or the layer's by default. */
  readonly locale?: string;
}

/** An argument as its people read of it. */
export interface ReferenceArgument {
  /** `<who>`, `[note…]`, `--tentative`. */
  readonly written: string;
  readonly description: string;
  /** What it takes, in words. */
  readonly takes: string;
  readonly isRequired: boolean;
}

/** A command as its people read of it. */
export interface ReferenceCommand {
  /** Its whole name: `overdue remind`. */
  readonly name: string;
  readonly description: string;
  readonly aliases: readonly string[];
  /** `!fine <who> <pence> [tool]` */
  readonly usage: string;
  readonly args: readonly ReferenceArgument[];
  readonly examples: readonly string[];
  /** Sentences on who may and how often, as help says them. */
  readonly notes: readonly string[];
}

/** Commands under one heading. */
export interface ReferenceSection {
  /** Nothing for what stands under no heading. */
  readonly heading: string | undefined;
  readonly commands: readonly ReferenceCommand[];
}

/** A bot’s own commands for its people, as data. */
export interface Reference {
  readonly guild: string;
  /** Of the words; descriptions may be in another where it is not declared. */
  readonly locale: string;
  /** The role or person whose commands these are. */
  readonly as: string | undefined;
  /** What heads a list of commands in that language. */
  readonly title: string;
  readonly sections: readonly ReferenceSection[];
}

/**
 * All commands of a bot in a guild, or those that a person of a role may run there.
 *
 * @throws TypeError for a role that there is not
 *
 * @example
 * const { sections } = await referenceOf(layer, place, platform, { as: 'steward', locale: 'pl' });
 */
export async function referenceOf(
  layer: CommandLayer,
  place: GuildPlace,
  platform: Platform,
  { as, locale }: ReferenceOptions = {},
): Promise<Reference> {
  const inside = insideOf(layer);
  const { guilds, addressing, basis } = inside;
  const viewer = await viewerFor(as, place, platform);
  const snapshot = await guilds.read(platform.name, place.guild.id);
  const prefix = (snapshot.prefixes ?? addressing.prefixes).written;
  const input = {
    surface: 'text',
    caller: viewer ?? nobody,
    place,
    text: `${prefix}x`,
    at: basis.clock.now(),
    ...(locale === undefined ? {} : { locale }),
  } as const;
  const heard = await lookFrom(inside, input, platform, prefix.length);
  const listing = listingFor(heard);
  const view: HelpView = {
    ...listing,
    isShown: viewer === undefined ? () => true : listing.isShown,
    catalogue: heard.catalogue,
    examplesOf: (command) => examplesHere(heard, command),
    lackedBy: () => [],
  };
  const { language } = heard.conversation;
  const { words } = language;

  async function told(command: CompiledCommand): Promise<ReferenceCommand> {
    const help = (await helpOn(view, command.name)) as CommandHelp;
    const { name, description, aliases, usage, args, examples, requires, limits } = help;
    return {
      name,
      description,
      aliases,
      usage,
      args: args.map(({ written, description: what = '', expected, isRequired }) => ({
        written,
        description: what,
        takes: words.expected(expected),
        isRequired,
      })),
      examples,
      notes: [
        ...(aliases.length === 0 ? [] : [sayInReply(words, 'reply.aliases', { names: aliases.join(', ') })]),
        ...(requires.length === 0 ? [] : [needsIn(words, requires)]),
        ...limits.map((limit) => limitIn(words, limit)),
      ],
    };
  }

  const sections = new Map<string | undefined, ReferenceCommand[]>();
  for (const entry of heard.catalogue.entries) {
    for (const command of commandsIn(entry)) {
      if (!view.isShown(command)) continue;
      foundOrMade(sections, command.section, () => []).push(await told(command));
    }
  }
  return {
    guild: visibleText(place.guild.name),
    locale: words.locale,
    as: viewer === undefined ? undefined : visibleText(viewer.name),
    title: sayInHelp(words, 'help.commands'),
    sections: [...sections].map(([heading, commands]) => ({ heading, commands })),
  };
}

const nobody: User = { kind: 'user', id: '', name: '' };

async function viewerFor(
  as: string | Member | undefined,
  { guild }: GuildPlace,
  platform: Platform,
): Promise<Member | undefined> {
  if (typeof as !== 'string') return as;
  const roles = await platform.directory.roles(guild);
  const role = roles.find(({ id, name }) => id === as || name === as);
  if (role !== undefined) return standing(role.name, [role]);
  throw new TypeError(
    `There is no role "${as}" in ${guild.name}; there are ${roles.map(({ name }) => name).join(', ')}`,
  );
}

function commandsIn(entry: Entry): readonly CompiledCommand[] {
  return entry.kind === 'command' ? [entry] : entry.commands;
}
