/** Under which keys questions are kept in the store. */
import { joined } from '../base/text.js';
import type { Store } from '../contract/store.js';

export const PREFIX = 'asking/';

/** Who is asked where, on a platform: by the id of the person, and that of the channel. */
export function questionKey(platform: string, person: string, channel: string): string {
  return joined(platform, joined(person, channel));
}

/** Takes away what a person is asked, wherever that is; how many questions it was. */
export async function withdrawAll(store: Store, platform: string, person: string): Promise<number> {
  let withdrawn = 0;
  for (const [key] of await store.entries(PREFIX + questionKey(platform, person, ''))) {
    const { value, version = 0 } = (await store.read(key)) ?? {};
    if (value && (await store.compareAndSet(key, version, '', 1))) withdrawn += 1;
  }
  return withdrawn;
}
