/** What is kept in memory of each guild. */
import { BoundedMap, foundOrMade } from '../base/bounded-map.js';
import { type Key, keyOf, partsOf } from '../contract/key.js';
import type { GuildSnapshot } from './book.js';
import type { UnreadSettings } from './errors.js';

/** On each platform; those not heard of for longest are let go. */
const MOST_GUILDS = 20_000;

/** What is kept of one guild. */
export interface KeptGuild {
  snapshot: GuildSnapshot | undefined;
  /** What was read: 0 where nothing is stored, -1 where it is one's own change. */
  version: number;
  loading: Promise<GuildSnapshot> | undefined;
  /** Its settings could not be read: when they are looked for again. */
  failure: { readonly error: UnreadSettings; readonly pauseMs: number; readonly until: number } | undefined;
  /** It was changed elsewhere and is read again: how long to wait where that fails. */
  rereadMs: number | undefined;
}

export interface KeptGuilds {
  /** Made where there is nothing yet. */
  keptOf(guild: Key): KeptGuild;
  keptBy(platform: string, guildId: string): KeptGuild | undefined;
  /** Those whose settings were read. */
  inMemory(): Iterable<readonly [guild: Key, snapshot: GuildSnapshot]>;
}

export function noGuildsKept(): KeptGuilds {
  /** By platform and guild, so that looking one up makes no key. */
  const kept = new Map<string, BoundedMap<string, KeptGuild>>();
  return {
    keptOf(guild) {
      const { platform, id } = partsOf(guild);
      const here = foundOrMade(kept, platform, () => new BoundedMap(MOST_GUILDS));
      return foundOrMade(here, id, nothingKept);
    },
    keptBy: (platform, guildId) => kept.get(platform)?.get(guildId),
    *inMemory() {
      for (const [platform, here] of kept) {
        for (const [id, { snapshot }] of here.entries())
          if (snapshot !== undefined) yield [keyOf(platform, id), snapshot] as const;
      }
    },
  };
}

function nothingKept(): KeptGuild {
  return { snapshot: undefined, version: -1, loading: undefined, failure: undefined, rereadMs: undefined };
}
