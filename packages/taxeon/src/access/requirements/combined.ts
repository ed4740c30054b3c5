/** `allOf(…)`, `anyOf(…)`, `not(…)`. */
import { mark } from '../../base/mark.js';
import { allOf, anyOf, negated } from '../finding.js';
import type { Decidable } from '../requirement.js';

export function all(...operands: readonly Decidable[]): Decidable {
  return {
    ...joinedBy(operands, 'and'),
    decide: (scene) => allOf(operands.map((one) => one.decide(scene))),
    // That one of them does not hold is enough.
    against: (scene) => operands.find((one) => one.decide(scene) === 'yes')?.against(scene) ?? [],
  };
}

export function any(...operands: readonly Decidable[]): Decidable {
  return {
    ...joinedBy(operands, 'or'),
    decide: (scene) => anyOf(operands.map((one) => one.decide(scene))),
    against: (scene) => operands.filter((one) => one.decide(scene) === 'yes').flatMap((one) => one.against(scene)),
  };
}

export function not(operand: Decidable): Decidable {
  const { plain, needed, unwanted = `not ${needed}` } = operand.english;
  return {
    [mark]: 'requirement',
    key: 'not',
    parameters: {},
    operands: [operand],
    english: { plain: `not (${plain})`, needed: unwanted, unwanted: needed },
    traits: { negates: true },
    decide: (scene) => negated(operand.decide(scene), () => operand.against(scene)),
    against(scene) {
      const finding = operand.decide(scene);
      return typeof finding === 'object' ? finding.unmet : [];
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
