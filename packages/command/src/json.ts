/** What `--json` prints: one object, and in `about` whom and which place it is about, by id and name. */
import type { Place } from 'taxeon';
import type { Input } from 'taxeon/platform';
import { print } from './print.js';

export interface IdAndName {
  readonly id: string;
  readonly name: string;
}

/** What is not there is left out. */
export interface AboutCall {
  readonly guild?: IdAndName;
  readonly channel?: IdAndName;
  readonly person?: IdAndName;
}

export function printJson(data: object): void {
  const text = JSON.stringify(data, null, 2);
  // What JSON lets stand as it is, and a terminal may obey.
  print(text.replace(/[\x7F-\x9F\u2028-\u202E\u2066-\u2069]/g, (sign) => `\\u${hex(sign)}`));
}

function hex(sign: string): string {
  return sign.charCodeAt(0).toString(16).padStart(4, '0');
}

export function aboutPlace(place: Place, person?: IdAndName): AboutCall {
  return {
    ...(place.kind === 'guild' ? { guild: idAndName(place.guild) } : {}),
    ...(place.kind === 'console' ? {} : { channel: idAndName(place.channel) }),
    ...(person === undefined ? {} : { person: idAndName(person) }),
  };
}

export function aboutInput({ place, caller }: Input): AboutCall {
  return aboutPlace(place, caller);
}

/** Permissions and the like are no part of it. */
function idAndName({ id, name }: IdAndName): IdAndName {
  return { id, name };
}
