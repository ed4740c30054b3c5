/** `caller.ownsBot()`: the caller is one of the bot's owners. */
import { lacks, mustBeWithout, no } from '../algebra.js';
import { ownsBot } from '../context.js';
import type { Decidable } from '../requirement.js';
import { called } from './words.js';

const lacking = no(lacks('ownership', ''));

export function ownership(): Decidable {
  return {
    ...called('owns-bot', {}),
    traits: { byCaller: true },
    decide: (context) => (ownsBot(context) ? 'yes' : lacking),
    against: () => [mustBeWithout('ownership', '')],
  };
}
