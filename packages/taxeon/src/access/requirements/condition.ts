/** `condition('the library is open', …)`: the developer's own, decided once the arguments are read. */
import { mark } from '../../base/mark.js';
import { asThingsAre, no, unknown } from '../algebra.js';
import { type Condition, type Decidable, none } from '../requirement.js';

export function condition(words: string, holds: Condition): Decidable {
  const self: Decidable = {
    [mark]: 'requirement',
    key: '',
    parameters: {},
    operands: none,
    english: { plain: words, needed: words },
    traits: {},
    condition: holds,
    decide({ conditions }) {
      if (conditions === undefined) return 'later';
      const gave = conditions.get(self);
      if (gave === true) return 'yes';
      if (gave === false) return no(asThingsAre);
      if (typeof gave === 'string') {
        return no({ code: 'requirement.failed', parameters: { argument: undefined, reason: gave } });
      }
      const reference = gave?.reference ?? '';
      return unknown({ code: 'callback.failed', parameters: { reference } });
    },
    against: () => [asThingsAre],
  };
  return self;
}
