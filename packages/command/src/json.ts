/** What `--json` prints: one object, and in `about` whom and which place it is about, by id and name. */
import type { Input, Place } from 'taxeon';

export interface Named {
  readonly id: string;
  readonly name: string;
}

/** What is not there is left out. */
export interface About {
  readonly guild?: Named;
  readonly channel?: Named;
  readonly person?: Named;
}

export function printJson(data: object): void {
  console.log(JSON.stringify(data, null, 2));
}

export function aboutPlace(place: Place, person?: Named): About {
  return {
    ...(place.kind === 'guild' ? { guild: named(place.guild) } : {}),
    ...(place.kind === 'console' ? {} : { channel: named(place.channel) }),
    ...(person === undefined ? {} : { person: named(person) }),
  };
}

export function aboutInput({ place, caller }: Input): About {
  return aboutPlace(place, caller);
}

/** Permissions and the like are no part of it. */
function named({ id, name }: Named): Named {
  return { id, name };
}
