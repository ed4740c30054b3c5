/** `vocabulary`: the words that a bot has, declared once, so that a misspelt one is an error of the compiler. */
import { checkFields, type Fields, texts } from '../base/fields.js';
import type { ArgMap, GivenOf } from './arg.js';
import { type Refusal, refuse, type Whereabouts } from './call.js';
import { type AnyDeclaration, type Command, command, type Declaration } from './command.js';
import { type Group, type GroupDeclaration, group } from './group.js';
import type { Vocabulary } from './words.js';

type WordIn<V extends Vocabulary, List extends keyof Vocabulary> = V extends {
  readonly [Name in List]: readonly (infer Word extends string)[];
}
  ? Word
  : string;

/** A word of each sort; any text where the vocabulary does not say. */
export interface WordsIn<V extends Vocabulary> {
  readonly permission: WordIn<V, 'permissions'>;
  readonly role: WordIn<V, 'roles'>;
  readonly scope: WordIn<V, 'scopes'>;
}

/** `command`, `group` and `refuse` that know the words of a bot. */
export interface Speaking<V extends Vocabulary> {
  command<const Args extends ArgMap = Readonly<Record<never, never>>, const In extends Whereabouts = 'anywhere'>(
    declaration: Declaration<Args, In, WordsIn<V>>,
  ): Command<GivenOf<Args>>;
  group(declaration: GroupDeclaration<WordsIn<V>>): Group;
  /** @throws TypeError for a code that the vocabulary does not have */
  refuse(
    code: V extends { readonly codes: readonly (infer Code extends string)[] } ? Code : `${string}.${string}`,
    reason: string,
  ): Refusal;
}

/**
 * The words that a bot has: what is declared with the functions that it gives is held to them by the compiler, and
 * once more when the layer is made. What is left out is not held to anything.
 *
 * @throws TypeError for a list that there is not, or that is none
 *
 * @example
 * export const { command, group, refuse } = vocabulary({
 *   permissions: ['certify', 'fine'],
 *   roles: ['steward'],
 *   scopes: ['staging'],
 *   codes: ['tool.out'],
 * });
 */
export function vocabulary<const V extends Vocabulary>(words: V): Speaking<V> {
  checkFields(words, fields, (field, problem) => {
    throw new TypeError(`vocabulary${field === '' ? '' : `, ${field}`}: ${problem}`);
  });
  return {
    command: (declaration) => ({ ...command(declaration as unknown as AnyDeclaration), words }) as never,
    group: (declaration) => ({ ...group(declaration as GroupDeclaration), words }),
    refuse(code, reason) {
      if (words.codes?.includes(code) === false) throw new TypeError(`${code} is no code of the vocabulary`);
      return refuse(code as never, reason);
    },
  };
}

const fields: Fields<Vocabulary> = { permissions: texts, roles: texts, scopes: texts, codes: texts };
