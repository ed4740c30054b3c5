/** Everything that can be wrong with a set of declarations, told at once and before anything runs. */
import { isRequirement } from '../access/requirement.js';
import { requirementBuilder } from '../access/requirements/index.js';
import { messageOf, shown } from '../base/fields.js';
import { isLocale } from '../base/locale.js';
import { nearNames } from '../base/near.js';
import { foldName } from '../base/text.js';
import { atOnce, isThenable } from '../base/thenable.js';
import { type Arg, type ArgMap, holdsMembers } from '../commands/arg.js';
import type { AnyDeclaration } from '../commands/command.js';
import { type CommandOrGroup, type GroupDeclaration, isGroup } from '../commands/group.js';
import type { Vocabulary } from '../commands/words.js';
import { isKey } from '../contract/key.js';
import type { Language } from '../replies/language.js';
import { checkArgs, checkName, type Tell } from './check-args.js';
import { checkExamples } from './check-examples.js';
import { checkLimits, sharedProblems } from './check-limits.js';
import { aLocalized, rightPart } from './fields.js';
import { isOuterId } from './inherit.js';
import type { DeclarationProblem } from './problem.js';

const surfaces = ['text', 'slash', 'console'];

/** Everything that is wrong with commands and groups, by themselves and together. */
export function checkCatalogue(
  declared: readonly CommandOrGroup[],
  scopes: Readonly<Record<string, unknown>>,
  asks: boolean,
  languages: readonly Language[],
): DeclarationProblem[] {
  const found: DeclarationProblem[] = [];
  const all: Placed[] = [];
  if (!Array.isArray(declared)) {
    const problem = `is ${shown(declared)}; give a list of commands and groups`;
    return [{ command: '(layer)', field: 'commands', problem }];
  }
  walk(declared, [], found, all);
  for (const { one, path, words } of all) {
    const { confirm, args = {} } = one as AnyDeclaration;
    const isAsking = confirm !== undefined || [one, ...Object.values(args)].some((it) => it.whenMissing === 'ask');
    if (isAsking && !asks) {
      const problem = 'needs `asking: askInChat()` of taxeon/asking in the layer';
      found.push({ command: path, field: confirm === undefined ? 'whenMissing' : 'confirm', problem });
    }
    const known = words?.scopes === undefined ? scopes : onlyOf(words.scopes, scopes);
    const tell: Tell = (field, problem) => void found.push({ command: path, field, problem });
    checkScope(one.scope, known, tell);
    checkLocalized(one, languages, tell);
  }
  found.push(...namesTwice(all), ...idsTwice(all), ...placesTwice(all));
  found.push(...sharedProblems(all.map(({ one, path }) => ({ ...one, name: path }))));
  return found;
}

/** A command or group with where it stands. */
interface Placed {
  readonly one: AnyDeclaration | GroupDeclaration;
  readonly path: string;
  /** Path of the group around it; empty outside of groups. */
  readonly around: string;
  readonly id: string;
  readonly words: Vocabulary | undefined;
}

function walk(
  declared: readonly CommandOrGroup[],
  around: readonly { readonly group: GroupDeclaration; readonly path: string; readonly id: string }[],
  found: DeclarationProblem[],
  all: Placed[],
): void {
  const outer = around.at(-1);
  const [pathBefore, idBefore] = outer === undefined ? ['', ''] : [`${outer.path} `, `${outer.id}.`];
  for (const [index, member] of declared.entries()) {
    if (!isCommandOrGroup(member)) {
      const problem = `is ${shown(member)}, which is no command; give what command({ … }) or group({ … }) gives`;
      found.push({ command: outer?.path ?? '(layer)', field: `commands[${index}]`, problem });
      continue;
    }
    const one = isGroup(member) ? member.group : member.declaration;
    const name = typeof one.name === 'string' ? one.name : '(unnamed)';
    const path = `${pathBefore}${name}`;
    const tell: Tell = (field, problem) => void found.push({ command: path, field, problem });
    const right: AnyDeclaration | GroupDeclaration = rightPart(one, isGroup(member), tell);
    const tellOther: Tell = (field, problem) => {
      if (one[field as 'name'] === undefined || right[field as 'name'] !== undefined) tell(field, problem);
    };
    const { words } = member;
    const id = right.id ?? `${idBefore}${name}`;
    if (typeof right.name === 'string') all.push({ one: right, path, around: outer?.path ?? '', id, words });
    checkShared(right, (one as AnyDeclaration).args !== (right as AnyDeclaration).args, tellOther, words);
    if (!isGroup(member)) {
      checkCommand(right as AnyDeclaration, tellOther);
      continue;
    }
    const { commands = [] } = right as GroupDeclaration;
    if (around.some(({ group }) => group === member.group)) tell('commands', 'holds the group itself; take it out');
    else if (commands.length === 0) tellOther('commands', 'are none; give at least one, or leave the group out');
    else walk(commands, [...around, { group: member.group, path, id }], found, all);
  }
}

/** Types do not hold in JavaScript. */
function isCommandOrGroup(one: Partial<Record<'declaration' | 'group', unknown>> | null | undefined): boolean {
  if (typeof one !== 'object' || one === null) return false;
  const declared = one.group ?? one.declaration;
  return typeof declared === 'object' && declared !== null;
}

/**
 * What commands and groups have alike.
 *
 * @param lacksArgs whether some are of the wrong form, so that not all are known
 */
function checkShared(
  one: AnyDeclaration | GroupDeclaration,
  lacksArgs: boolean,
  tell: Tell,
  words: Vocabulary | undefined,
): void {
  checkName('name', one.name, tell);
  for (const [index, alias] of (one.aliases ?? []).entries()) checkName(`aliases[${index}]`, alias, tell);
  if (one.description === undefined || one.description.trim() === '') {
    tell('description', 'is empty; say in one line what it does');
  }
  for (const surface of one.surfaces ?? []) {
    if (!surfaces.includes(surface))
      tell('surfaces', `names ${JSON.stringify(surface)}; give any of ${surfaces.join(', ')}`);
  }
  if (isOuterId(one.id ?? '')) tell('id', 'is of a section or module; choose another');
  for (const locale of Object.keys(one.localized ?? {})) {
    if (!isLocale(locale)) tell(`localized.${locale}`, 'is no locale; give one such as en-GB');
  }
  if (one.section !== undefined && one.section.trim() === '') tell('section', 'is empty; name it or leave it out');
  checkRequirements(one, lacksArgs, tell, words);
  checkLimits(one as AnyDeclaration, tell);
}

/** A misspelt set of guilds would be a guild that there is not. */
export function checkScope(scope: unknown, scopes: Readonly<Record<string, unknown>>, tell: Tell): void {
  if (scope === undefined) return;
  const names: readonly unknown[] = Array.isArray(scope) ? scope : [scope];
  if (names.length === 0) tell('scope', "is empty; give 'everywhere', a set of guilds, or a guild");
  for (const name of names) {
    if (name === 'everywhere' || isKey(name) || (typeof name === 'string' && Object.hasOwn(scopes, name))) continue;
    const near = meant(String(name), ['everywhere', ...Object.keys(scopes)]) ?? 'write one of these';
    tell('scope', `names ${shown(name)}, which is no set of guilds and no guild such as 'irc/#oddmere'; ${near}`);
  }
}

/** Called once for each language, so that nothing of it fails later. */
function checkLocalized({ localized }: Placed['one'], languages: readonly Language[], tell: Tell): void {
  if (typeof localized !== 'function') return;
  for (const { locale, words } of languages) {
    try {
      const given: unknown = localized(words);
      const wanted = isThenable(given) ? 'it at once' : aLocalized(given);
      if (wanted !== undefined) tell('localized', `gives ${shown(given)} for ${locale}; give ${wanted}`);
    } catch (error) {
      tell('localized', `throws for ${locale}: ${messageOf(error)}`);
    }
  }
}

function checkCommand(declaration: AnyDeclaration, tell: Tell): void {
  if (declaration.run === undefined) tell('run', 'is missing; give the function that does the work');
  checkArgs(declaration, tell);
  checkExamples(declaration, tell);
}

function checkRequirements(
  declaration: AnyDeclaration | GroupDeclaration,
  lacksArgs: boolean,
  tell: Tell,
  words: Vocabulary | undefined,
): void {
  if (declaration.requires === undefined) return;
  let list: unknown;
  try {
    list = atOnce(declaration.requires(requirementBuilder));
  } catch (error) {
    tell('requires', `throws: ${messageOf(error)}`);
    return;
  }
  if (!Array.isArray(list)) {
    tell('requires', 'gives no list; return [ … ]');
    return;
  }
  const args = lacksArgs ? undefined : (('args' in declaration ? declaration.args : undefined) ?? {});
  for (const requirement of list) checkRequirement(requirement, args, tell, words);
}

/** At every depth. */
function checkRequirement(
  requirement: unknown,
  args: ArgMap | undefined,
  tell: Tell,
  words: Vocabulary | undefined,
): void {
  if (!isRequirement(requirement)) {
    tell(
      'requires',
      `gives ${shown(requirement)}, which is no requirement; call what the builder has, as in can('fine')`,
    );
    return;
  }
  const { traits, parameters, operands, english } = requirement;
  const { argument, permission, role } = parameters;
  if (traits.joins !== undefined && operands.length === 0) {
    tell('requires', `has an ${traits.joins === 'and' ? 'allOf' : 'anyOf'}() of nothing; name what it is made of`);
  }
  if (
    argument !== undefined &&
    args !== undefined &&
    !(Object.hasOwn(args, argument) && holdsMembers(args[argument] as Arg<unknown>))
  ) {
    tell('requires', `asks that ${english.plain}, but “${argument}” is no argument that holds a member`);
  }
  checkWord('permission', permission, words?.permissions, tell);
  checkWord('role', role, words?.roles, tell);
  for (const operand of operands) checkRequirement(operand, args, tell, words);
}

function checkWord(what: string, word: string | undefined, known: readonly string[] | undefined, tell: Tell): void {
  if (word === undefined || known === undefined || known.includes(word)) return;
  const mend = meant(word, known) ?? 'add it there';
  tell('requires', `names the ${what} ${shown(word)}, which the vocabulary does not have; ${mend}`);
}

function meant(word: string, known: readonly string[]): string | undefined {
  const near = nearNames(word, known);
  return near.length === 0 ? undefined : `did you mean ${near.join(' or ')}?`;
}

function onlyOf(names: readonly string[], all: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  return Object.fromEntries(Object.entries(all).filter(([name]) => names.includes(name)));
}

/** Names and aliases that two claim in the same place, or that only look different. */
function* namesTwice(all: readonly Placed[]): Iterable<DeclarationProblem> {
  const owners = new Map<string, { readonly path: string; readonly name: string }>();
  for (const { one, path, around } of all) {
    const names = [one.name, ...(one.aliases ?? [])];
    for (let index = 0; index < names.length; index++) {
      const name = String(names[index]);
      const looks = around === '' ? skeleton(name) : `${around} ${skeleton(name)}`;
      const owner = owners.get(looks);
      if (owner === undefined) {
        owners.set(looks, { path, name });
        continue;
      }
      const field = index === 0 ? 'name' : `aliases[${index - 1}]`;
      if (foldName(owner.name) === foldName(name)) {
        yield { command: path, field, problem: `"${name}" already belongs to ${owner.path}; rename one of them` };
      } else {
        const problem = `"${name}" looks like "${owner.name}" of ${owner.path}, with other letters; rename one of them`;
        yield { command: path, field, problem };
      }
    }
  }
}

function* idsTwice(all: readonly Placed[]): Iterable<DeclarationProblem> {
  const owners = new Map<string, string>();
  for (const { path, id } of all) {
    const owner = owners.get(id);
    if (owner === undefined) owners.set(id, path);
    // A name that stands twice is told already.
    else if (owner !== path)
      yield { command: path, field: 'id', problem: `"${id}" is also the id of ${owner}; change one` };
  }
}

function* placesTwice(all: readonly Placed[]): Iterable<DeclarationProblem> {
  const places = new Map<unknown, string>();
  for (const { one, path } of all) {
    const other = places.get(one);
    if (other === undefined) places.set(one, path);
    else if (other !== path && !path.startsWith(`${other} `)) {
      yield { command: path, field: 'commands', problem: `is the same declaration as ${other}; declare it once more` };
    }
  }
}

// Names that are different and look the same.
/** Letters of other scripts that are drawn as a Latin one. Source: Unicode TS #39, confusables.txt, the part that small letters need. */
const lookAlikes: ReadonlyMap<string, string> = new Map(
  'aаα bЬв cсϲ dԁ eеё gɡ hһ iіιı jј kкκ lӏ1| mм nп oоοσ0 pрρ qԛ rг sѕ tтτ uυս vνѵ wԝω xхχ yуγ zᴢ'
    .split(' ')
    .flatMap(([latin = '', ...others]) => others.map((other) => [other, latin] as const)),
);

/** Two names with the same skeleton look alike. */
function skeleton(name: string): string {
  return foldName(name).replace(/[^a-z]/gu, (letter) => lookAlikes.get(letter) ?? letter);
}
