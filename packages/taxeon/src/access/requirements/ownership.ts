/** `caller.ownsBot()`: the caller is one of the bot's owners. */
import { mark } from '../../base/mark.js';
import { lacks, mustBeWithout, no } from '../finding.js';
import { type Decidable, none } from '../requirement.js';
import { ownsBot } from '../scene.js';

const lacking = no(lacks('ownership', ''));

export function ownership(): Decidable {
  return {
    [mark]: 'requirement',
    key: 'owns-bot',
    parameters: {},
    operands: none,
    english: {
      plain: 'caller owns the bot',
      opposite: 'not (caller owns the bot)',
      needed: 'owning the bot',
    },
    traits: { byCaller: true },
    decide: (scene) => (ownsBot(scene) ? 'yes' : lacking),
    against: () => [mustBeWithout('ownership', '')],
  };
}
