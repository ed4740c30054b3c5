/** Names of commands and groups, as values of an argument such as help's. */
import type { CompletionContext, Offered } from '../../commands/arg.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { insideOf, lookFrom } from '../../layer/inside.js';
import { showsTo } from '../../pipeline/near.js';
import { readingContextOf } from '../../pipeline/read.js';
import { completeText } from './complete.js';

const MOST = 25;

/** What a person may run whose name goes on from what is typed: `overdue`, `overdue remind`. */
export async function completeNames(
  layer: CommandLayer,
  typed: string,
  { caller, place, platform, surface }: CompletionContext,
): Promise<readonly Offered[]> {
  const inside = insideOf(layer);
  const input = { surface, caller, place, at: inside.basis.clock.now() };
  const heard = await lookFrom(inside, input, platform, 0);
  const view = {
    catalogue: heard.catalogue,
    context: readingContextOf(heard),
    isShown: showsTo(heard),
    most: MOST,
    mayName: async () => true,
    own: async () => [],
  };
  const found = await completeText(view, typed, 0, typed.length);
  return found
    .filter(({ kind }) => kind === 'command' || kind === 'group')
    .map(({ text, start, description = '' }) => ({ value: `${typed.slice(0, start)}${text}`, description }));
}
