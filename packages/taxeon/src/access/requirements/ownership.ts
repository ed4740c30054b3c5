/** `caller.ownsBot()`: the caller is one of the bot's owners. */
import { lacks, mustBeWithout, no } from '../finding.js';
import type { Decidable } from '../requirement.js';
import { ownsBot } from '../scene.js';
import { called } from './words.js';

const lacking = no(lacks('ownership', ''));

export function ownership(): Decidable {
  return {
    ...called('owns-bot', {}),
    traits: { byCaller: true },
    decide: (scene) => (ownsBot(scene) ? 'yes' : lacking),
    against: () => [mustBeWithout('ownership', '')],
  };
}
