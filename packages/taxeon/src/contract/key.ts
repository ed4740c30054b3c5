/** Who or what is meant, across platforms. */

/**
 * A platform's name with an id of that platform: `irc/odalys`. Ids alone mean nothing: two platforms may have the
 * same one.
 */
export type Key = `${string}/${string}`;

/**
 * The key of a person or a thing on a platform.
 *
 * @param platform the name of the platform; names have no `/` in them, ids may
 *
 * @example
 * keyOf('irc', '#oddmere'); // 'irc/#oddmere'
 */
export function keyOf(platform: string, id: string): Key {
  return `${platform}/${id}`;
}

export interface KeyParts {
  readonly platform: string;
  readonly id: string;
}

/** A key taken apart. */
export function partsOf(key: Key): KeyParts {
  const at = key.indexOf('/');
  return { platform: key.slice(0, at), id: key.slice(at + 1) };
}

/** Whether a developer gave a key: both of its parts are there. */
export function isKey(value: unknown): value is Key {
  return typeof value === 'string' && /^[^/]+\/./s.test(value);
}

/** Ids by the platform that they are of. */
export type IdsByPlatform = ReadonlyMap<string, ReadonlySet<string>>;

export function idsByPlatform(keys: Iterable<Key>): IdsByPlatform {
  const ids = new Map<string, Set<string>>();
  for (const key of keys) {
    const { platform, id } = partsOf(key);
    const here = ids.get(platform);
    if (here === undefined) ids.set(platform, new Set([id]));
    else here.add(id);
  }
  return ids;
}
