/** What the values of a kind are in JSON Schema, for the manifest. */
import type { ArgumentSchema } from '../../contract/registrar.js';
import type { Kind } from '../kind.js';

/** As the kind says it; a text of that kind otherwise. */
export function schemaOf({ schema, name }: Pick<Kind<unknown>, 'schema' | 'name'>): ArgumentSchema {
  return schema ?? { type: 'string', 'x-kind': name };
}

export function present(bounds: Readonly<Record<string, number | undefined>>): Readonly<Record<string, number>> {
  return Object.fromEntries(
    Object.entries(bounds).filter((bound): bound is [string, number] => bound[1] !== undefined),
  );
}
