/** `taxeon access`: who may run what in a guild, and what the bot itself must be allowed. */
import {
  type AccessTable,
  accessTable,
  type GuildPlace,
  isPlatformError,
  type Member,
  needs,
  systemClock,
} from 'taxeon';
import type { StandIn } from 'taxeon/stand-in';
import { UsageError } from './errors.js';
import { aboutPlace, printJson } from './json.js';
import { openBot } from './open.js';
import { print } from './print.js';

export interface AccessOptions {
  readonly in?: string;
  readonly as?: string;
  readonly bot: boolean;
  readonly format: 'table' | 'csv' | 'html';
  readonly json: boolean;
  readonly config?: string;
  /** A file with the table that is expected. */
  readonly expect?: string;
}

export async function showAccess(options: AccessOptions): Promise<void> {
  const { layer, platform } = await openBot(options.config, systemClock);
  if (options.bot) {
    const { botNeedsText } = await import('./print-access.js');
    const all = needs(layer);
    if (options.json) printJson({ needs: all });
    else print(botNeedsText(all));
    return;
  }
  const place = guildPlaceOf(options.in, platform);
  const person = personOf(options.as, place, platform);
  const table = await accessTable(layer, place, platform, person);
  const { guild: _, ...cells } = table;
  if (options.json) printJson({ about: aboutPlace(place, person), ...cells });
  else print(await formatted(table, options.format));
  if (options.expect === undefined) return;
  const { accessDifferences, failExpectation, readAccessTable } = await import('./expect.js');
  const differences = accessDifferences(readAccessTable(options.expect), table);
  if (differences.length > 0) failExpectation(differences);
}

async function formatted(table: AccessTable, format: AccessOptions['format']): Promise<string> {
  switch (format) {
    case 'csv':
      return (await import('./print-access.js')).accessCsv(table);
    case 'html':
      return (await import('./access-page.js')).accessPage(table);
    case 'table':
      return (await import('./print-access.js')).accessText(table);
  }
}

/** @throws UsageError where there is no such guild */
export function guildPlaceOf(wanted: string | undefined, platform: StandIn): GuildPlace {
  const guilds = [...platform.directory.guilds.keys()];
  const at = wanted ?? guilds[0];
  const someone = [...(platform.directory.guilds.get(at?.split('/')[0] ?? '')?.members.keys() ?? [])][0];
  if (at === undefined || someone === undefined) {
    throw new UsageError(`There is no guild "${at ?? ''}"; there are ${guilds.join(', ')}.`);
  }
  try {
    const { place } = platform.typed({ person: someone, place: at, text: '' });
    if (place.kind === 'guild') return place;
  } catch (error) {
    if (!isPlatformError(error)) throw error;
    throw new UsageError(`${error.message}.`);
  }
  throw new UsageError(`"${at}" is no guild; there are ${guilds.join(', ')}.`);
}

function personOf(wanted: string | undefined, { guild }: GuildPlace, platform: StandIn): Member | undefined {
  if (wanted === undefined) return undefined;
  const members = [...(platform.directory.guilds.get(guild.id)?.members.values() ?? [])];
  const person = members.find(({ id, name }) => id === wanted || name.toLowerCase() === wanted.toLowerCase());
  if (person !== undefined) return person;
  throw new UsageError(
    `There is no "${wanted}" in ${guild.name}; there are ${members.map(({ id }) => id).join(', ')}.`,
  );
}
