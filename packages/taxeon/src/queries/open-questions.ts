/** How much is asked in the chat at this moment. */
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';

/**
 * How many questions of a layer are open, as this process knows them; 0 in a layer that does not ask.
 */
export function openQuestions(layer: CommandLayer): number {
  return insideOf(layer).course.asking?.openQuestions() ?? 0;
}
