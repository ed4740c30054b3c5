/** What a guild's settings can be about: commands, groups, sections and modules, by id and by what people call them. */
import { foldName } from '../base/text.js';
import type { Catalogue } from '../catalogue/catalogue.js';

export interface RuleTarget {
  readonly id: string;
  readonly name: string;
}

export interface RuleTargets {
  has(id: string): boolean;
  /** By name, alias, id, or the heading of a section. */
  find(name: string): RuleTarget | undefined;
}

export function ruleTargetsIn(catalogue: Catalogue): RuleTargets {
  const around = catalogue.outer.map((id) => ({ id, name: id.slice(id.indexOf(':') + 1) }));
  const byId = new Map<string, RuleTarget>(
    [...catalogue.groups, ...catalogue.commands, ...around].map((one) => [one.id, one]),
  );
  return {
    has: (id) => byId.has(id),
    find(name) {
      const isNamed = (one: RuleTarget) => foldName(one.name) === foldName(name);
      return catalogue.find(name) ?? byId.get(name) ?? around.find(isNamed);
    },
  };
}
