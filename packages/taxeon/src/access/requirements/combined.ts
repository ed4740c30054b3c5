/** `allOf(…)`, `anyOf(…)`, `not(…)`. */
import { mark } from '../../base/mark.js';
import { allOf, anyOf, negated } from '../algebra.js';
import type { Decidable } from '../requirement.js';

export function all(...operands: readonly Decidable[]): Decidable {
  return {
    ...joinedBy(operands, 'and'),
    decide: (context) => allOf(operands.map((one) => one.decide(context))),
    // That one of them does not hold is enough.
    against: (context) => operands.find((one) => one.decide(context) === 'yes')?.against(context) ?? [],
  };
}

export function any(...operands: readonly Decidable[]): Decidable {
  return {
    ...joinedBy(operands, 'or'),
    decide: (context) => anyOf(operands.map((one) => one.decide(context))),
    against: (context) =>
      operands.filter((one) => one.decide(context) === 'yes').flatMap((one) => one.against(context)),
  };
}

export function not(operand: Decidable): Decidable {
  const { plain, opposite = `not (${plain})`, needed, unwanted = `not ${needed}` } = operand.english;
  return {
    [mark]: 'requirement',
    key: 'not',
    parameters: {},
    operands: [operand],
    english: { plain: opposite, opposite: plain, needed: unwanted, unwanted: needed },
    traits: { negates: true },
    decide: (context) => negated(operand.decide(context), () => operand.against(context)),
    against(context) {
      const decided = operand.decide(context);
      return typeof decided === 'object' ? decided.unmet : [];
    },
  };
}

function joinedBy(operands: readonly Decidable[], joins: 'and' | 'or') {
  const listed = (of: (one: Decidable) => string) => operands.map(of).join(` ${joins} `);
  const plain = listed(({ english }) => english.plain);
  const needed = listed(({ english }) => english.needed);
  return {
    [mark]: 'requirement',
    key: '',
    parameters: {},
    operands,
    english: { plain, needed },
    traits: { joins },
  } as const;
}
