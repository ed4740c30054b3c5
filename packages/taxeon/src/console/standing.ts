/** What lines at the console are about: a guild, one of its channels, or nothing. */
import { inTime, TooLate } from '../base/thenable.js';
import type { Clock } from '../base/time.js';
import type { Guild, Place } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';

export interface Standing {
  /** For the prompt and sentences. */
  readonly name: string;
  readonly place: Place;
}

export interface Standings {
  /** For the prompt: what was looked at last. */
  readonly name: string;
  /** What lines are about now. @throws where the bot is there no more */
  look(): Promise<Standing>;
  /** @param where a guild, `guild/channel`, or `nothing` @throws where the bot is not there */
  move(where: string): Promise<Standing>;
}

const nothing: Standing = { name: 'console', place: { kind: 'console' } };

/** A platform that says nothing for so long stops nobody from typing. */
const PATIENCE_MS = 5000;

export function standingFor(about: Platform | undefined, guild: string | undefined, clock: Clock): Standings {
  let where = guild ?? 'nothing';
  let last = guild ?? nothing.name;

  async function look(at: string): Promise<Standing> {
    try {
      return await inTime(clock, PATIENCE_MS, () => find(at));
    } catch (error) {
      if (error instanceof TooLate) throw new Error(`${about?.name} does not say where the bot is; try again.`);
      throw error;
    }
  }

  async function find(at: string): Promise<Standing> {
    if (at === 'nothing') return nothing;
    if (about === undefined) throw new Error('The console is about no platform: give it `about`.');
    const guilds = await about.guilds?.();
    const found = guilds === undefined ? { guild: { id: at, name: at } } : among(guilds, at);
    if (found === undefined)
      throw new Error(`The bot is not in "${at}"; it is in ${guilds?.map(({ id }) => id).join(', ') || 'nothing'}.`);
    const channels = await about.directory.channels(found.guild);
    const wanted = found.channel;
    const channel =
      wanted === undefined ? channels[0] : channels.find(({ id, name }) => id === wanted || name === wanted);
    if (channel === undefined && wanted !== undefined)
      throw new Error(`There is no channel "${wanted}"; there are ${channels.map(({ name }) => name).join(', ')}.`);
    // Where a platform tells no channels, the guild is one.
    return { name: at, place: { kind: 'guild', guild: found.guild, channel: channel ?? found.guild } };
  }

  return {
    get name() {
      return last;
    },
    look: () => look(where),
    async move(to) {
      const next = await look(to);
      where = to;
      last = next.name;
      return next;
    },
  };
}

/** Ids may have a `/` in them. */
function among(guilds: readonly Guild[], at: string): { readonly guild: Guild; readonly channel?: string } | undefined {
  const named = (name: string) => guilds.find((one) => one.id === name) ?? guilds.find((one) => one.name === name);
  const whole = named(at);
  if (whole !== undefined) return { guild: whole };
  for (let slash = at.indexOf('/'); slash > 0; slash = at.indexOf('/', slash + 1)) {
    const guild = named(at.slice(0, slash));
    if (guild !== undefined) return { guild, channel: at.slice(slash + 1) };
  }
  return undefined;
}
