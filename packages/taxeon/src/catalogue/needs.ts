/** What the bot itself must be allowed, over all commands. */
import { botPermissionsIn } from '../access/compile.js';
import type { CompiledCommand } from './catalogue.js';

/** What the bot must be allowed, and by which commands. */
export interface BotNeed {
  readonly permission: string;
  readonly commands: readonly string[];
}

export function botNeeds(commands: readonly CompiledCommand[]): readonly BotNeed[] {
  const needs = new Map<string, string[]>();
  for (const { name, requires } of commands) {
    for (const permission of botPermissionsIn(requires))
      needs.set(permission, [...(needs.get(permission) ?? []), name]);
  }
  return [...needs]
    .map(([permission, names]) => ({ permission, commands: names }))
    .sort((a, b) => (a.permission < b.permission ? -1 : 1));
}
