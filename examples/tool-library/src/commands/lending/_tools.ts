/** What the commands about a tool share. */
import { arg } from 'taxeon';
import type { Tool, ToolLibrary } from '../../library.js';

/** How a tool is called, and what is said of it where people choose. */
export const byName = { in: 'guild', name: (tool: Tool) => tool.name, describe: (tool: Tool) => tool.kind } as const;

/** One of the guild's tools; what is in `where` is offered while a person types. */
export function toolArg(library: ToolLibrary, where: 'on the shelf' | 'lent' | 'anywhere') {
  return arg.choice(({ guild }) => library.tools(guild.id), {
    ...byName,
    description: 'Which tool',
    complete: (_, { place }) => {
      if (place.kind !== 'guild') return [];
      const { id } = place.guild;
      const isOffered = (tool: Tool) =>
        where === 'anywhere' || (library.loanOf(id, tool) === undefined) === (where === 'on the shelf');
      return library
        .tools(id)
        .filter(isOffered)
        .map(({ name, kind }) => ({ value: name, description: kind }));
    },
  });
}
