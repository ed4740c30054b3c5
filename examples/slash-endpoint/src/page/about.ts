/** What the chat knows: the commands that are registered, and who is who. */

import type { World } from '@taxeon/testing';
import type { RegisteredForm } from 'taxeon/platform';
import type { ManifestEntry } from 'taxeon/registration';

export interface About {
  readonly commands: readonly ManifestEntry[];
  readonly world: World;
  readonly tools: readonly { readonly name: string }[];
}

export interface Usable {
  /** `overdue remind`. */
  readonly path: string;
  readonly form: RegisteredForm;
}

/** All that can be used, groups taken apart. */
export function usable(forms: readonly RegisteredForm[], before = ''): readonly Usable[] {
  return forms.flatMap((form) => {
    const path = `${before}${form.name}`;
    return form.commands === undefined ? [{ path, form }] : usable(form.commands, `${path} `);
  });
}

/** What a post says of a person, as they stand in the guild. */
export function personOf({ people, guilds }: World, id: string) {
  const [guild] = guilds;
  const held = new Set(guild?.members[id] ?? []);
  const roles = (guild?.roles ?? []).filter(({ name }) => held.has(name));
  return {
    id,
    name: people.find((one) => one.id === id)?.name ?? id,
    roles: roles.map(({ name }) => ({ id: name, name })),
    permissions: [...new Set(roles.flatMap(({ permissions = [] }) => permissions))],
    rank: Math.max(0, ...roles.map(({ rank }) => rank)),
    ownsGuild: guild?.owner === id,
  };
}
