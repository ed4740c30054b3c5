/** Recognising an input that a platform delivers a second time. */

import { joined } from '../base/text.js';
import type { Clock } from '../base/time.js';
import type { Input } from '../contract/input.js';
import { shareOf } from '../limits/window.js';
import type { SparseLog } from '../observe/sparse-log.js';

/** Ids are remembered for as long as a slice lasts, and at most for one more. */
const SLICE_MS = 10 * 60_000;
/** In one slice. At about 150 bytes an id and 80 a person, a bot that is flooded on purpose spends up to 230 MB on them. */
const MOST_IDS = 500_000;
/** One person's part of it at most: a flood costs those alone who send it. */
const MOST_OF_A_PERSON = 3000;

interface Slice {
  /** By platform, place, person and id: the same id in two places, or of two people, is two events. */
  readonly ids: Set<string>;
  /** How many are each person's. */
  readonly persons: Map<string, number>;
}

/** No id is forgotten within ten minutes: a person who sends many does not make an old one run again. */
export interface RecentIds {
  /**
   * Whether the input was seen before; it is remembered, unless the caller only looks. What cannot be remembered could
   * not be told from a repetition either, so it counts as one.
   */
  meets(platform: string, input: Input, looks: boolean): boolean;
}

/** @param full told of what cannot be remembered */
export function recentIds(clock: Clock, full: SparseLog): RecentIds {
  let young = emptySlice();
  let old = emptySlice();
  let beganAt = clock.now();

  function turn(): void {
    const now = clock.now();
    if (now < beganAt) beganAt = now;
    if (now - beganAt < SLICE_MS) return;
    old = now - beganAt < SLICE_MS * 2 ? young : emptySlice();
    young = emptySlice();
    beganAt = now;
  }

  return {
    /** Hot path: bench/rows/calls. */
    meets(platform, input, looks) {
      if (!looks) turn();
      const event = eventOf(platform, input);
      if (young.ids.has(event) || old.ids.has(event)) return true;
      if (looks) return false;
      const { ids, persons } = young;
      const person = joined(platform, input.caller.id);
      const count = persons.get(person) ?? 0;
      if (count >= shareOf(MOST_IDS, MOST_OF_A_PERSON, ids.size)) {
        full.tell({ platform, person: input.caller.id });
        return true;
      }
      persons.set(person, count + 1);
      ids.add(event);
      return false;
    },
  };
}

function emptySlice(): Slice {
  return { ids: new Set(), persons: new Map() };
}

/** Joined, it is a text of its own: an id that was cut out of a message would keep the whole message in memory. */
export function eventOf(platformName: string, { id = '', place, caller }: Input): string {
  return joined(whoWhere({ platformName, place, caller }), id);
}

interface SomebodySomewhere extends Pick<Input, 'place' | 'caller'> {
  readonly platformName: string;
}

/** A person in a place, as what they were told is remembered. */
export function whoWhere({ platformName, place, caller }: SomebodySomewhere): string {
  return joined(platformName, joined(place.kind === 'console' ? '' : place.channel.id, caller.id));
}
