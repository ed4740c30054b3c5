/** What the commands about a tool share. */
import { arg } from 'taxeon';
import type { Tool, ToolLibrary } from '../../library.js';
import { refuse } from '../../messages.js';

/** A tool by its name; what is in `where` is offered while a person types. */
export function toolArg(library: ToolLibrary, where: 'on the shelf' | 'lent' | 'anywhere') {
  return arg.text({
    description: 'Which tool',
    max: 40,
    example: 'drill',
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

/** The tool that was asked for, or what to say where it is none, or one of several. */
export function pickTool(found: readonly Tool[], asked: string) {
  const [first, ...others] = found;
  if (first === undefined) return refuse('tool.unknown', { asked });
  if (others.length === 0) return first;
  return refuse('tool.several', { tools: found.map(({ name }) => name) });
}
