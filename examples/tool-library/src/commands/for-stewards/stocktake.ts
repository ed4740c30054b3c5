import { command, partlyDone } from 'taxeon';
import type { Services } from '../../services.js';

export default function stocktake({ library }: Services) {
  return command({
    name: 'stocktake',
    description: 'Count what is on the shelf',
    section: 'For stewards',
    scope: ['staging', 'stand-in/oddmere', 'stand-in/pellbrook'],
    in: 'guild',
    requires: ({ caller }) => [caller.can('certify')],
    running: { guild: 1 },
    timeout: '5m',
    async run({ guild, progress, signal }) {
      const tools = library.tools(guild.id);
      const missing: string[] = [];
      for (const [index, tool] of tools.entries()) {
        if (signal().aborted) break;
        const isThere = (await library.scan(guild.id, tool)) || library.loanOf(guild.id, tool) !== undefined;
        if (!isThere) missing.push(tool.name);
        progress((index + 1) / tools.length, `Counted shelf ${index + 1}: ${tool.name}`);
      }
      const body = missing.length === 0 ? 'Everything is there.' : `Not there, and not lent: ${missing.join(', ')}.`;
      return partlyDone(tools.length - missing.length, tools.length, { heading: 'Stocktake', body });
    },
  });
}
