/** What a command has from the groups around it. */
import { type CompiledRequirement, compileRequirements } from '../access/compile.js';
import { requirementBuilder } from '../access/requirements/index.js';
import type { WhenMissing } from '../commands/arg.js';
import type { RefusalHook, Whereabouts } from '../commands/call.js';
import type { AllLocalized, AnyDeclaration, Scope } from '../commands/command.js';
import type { GroupDeclaration } from '../commands/group.js';
import type { Manners, MessageOverrides } from '../contract/codes.js';
import type { Language } from '../replies/language.js';
import type { AroundBy } from './around.js';
import type { CompiledGroup } from './catalogue.js';
import { type Counted, countedOf } from './compile-limits.js';

export interface Inherited {
  groups: readonly CompiledGroup[];
  readonly path: string;
  readonly id: string;
  readonly ids: readonly string[];
  readonly section: string | undefined;
  readonly module: string | undefined;
  readonly scopes: Readonly<Record<string, readonly string[]>>;
  readonly scope: Scope;
  /** The layer's, besides English. */
  readonly languages: readonly Language[];
  readonly in: Whereabouts | undefined;
  readonly surfaces: AnyDeclaration['surfaces'];
  readonly requires: readonly CompiledRequirement[];
  readonly counted: readonly Counted[];
  readonly messages: MessageOverrides | undefined;
  readonly manners: readonly Manners[];
  readonly whenMissing: WhenMissing | undefined;
  readonly onRefusal: RefusalHook | undefined;
  readonly arounds: readonly AroundBy[];
}

export const nothing: Inherited = {
  groups: [],
  path: '',
  id: '',
  ids: [],
  section: undefined,
  module: undefined,
  scopes: {},
  scope: 'everywhere',
  languages: [],
  in: undefined,
  surfaces: undefined,
  requires: [],
  counted: [],
  messages: undefined,
  manners: [],
  whenMissing: undefined,
  onRefusal: undefined,
  arounds: [],
};

export function groupParts(group: GroupDeclaration, from: Inherited) {
  const section = group.section ?? from.section;
  const module = group.module ?? from.module;
  const id = group.id ?? `${from.id}${group.name}`;
  return {
    kind: 'group',
    name: `${from.path}${group.name}`,
    word: group.name,
    id,
    ids: [id, ...from.ids, ...outerIds(section, module)],
    section,
    module,
    localized: localizedIn(group, from),
    description: group.description,
    aliases: group.aliases ?? [],
  } as const;
}

/** By locale, whichever way it was declared. */
export function localizedIn(
  { localized }: Pick<AnyDeclaration, 'localized'>,
  { languages }: Pick<Inherited, 'languages'>,
): AllLocalized | undefined {
  if (typeof localized !== 'function') return localized;
  return Object.fromEntries(languages.map(({ locale, words }) => [locale, localized(words)]));
}

/** Ids under which a guild decides about what commands are in besides groups: their section, and their module. */
export function outerIds(section: string | undefined, module: string | undefined): string[] {
  return Object.entries({ section, module }).flatMap(([what, name]) => (name === undefined ? [] : `${what}:${name}`));
}

export function isOuterId(id: string): boolean {
  return /^(section|module):/.test(id);
}

export function inheritedFrom(
  group: GroupDeclaration,
  from: Inherited,
  { id, name, section, module }: ReturnType<typeof groupParts>,
) {
  const { messages, manners, around } = group;
  return {
    groups: from.groups,
    path: `${name} `,
    id: `${id}.`,
    ids: [id, ...from.ids],
    section,
    module,
    scopes: from.scopes,
    languages: from.languages,
    scope: group.scope ?? from.scope,
    in: group.in ?? from.in,
    surfaces: group.surfaces ?? from.surfaces,
    requires: [...from.requires, ...compileRequirements(group.requires?.(requirementBuilder) ?? [])],
    counted: [...from.counted, ...countedOf(group, id)],
    messages: messages === undefined ? from.messages : { ...from.messages, ...messages },
    manners: manners === undefined ? from.manners : [...from.manners, manners],
    whenMissing: group.whenMissing ?? from.whenMissing,
    onRefusal: group.onRefusal?.bind(group) ?? from.onRefusal,
    arounds:
      around === undefined ? from.arounds : [...from.arounds, { by: `the group ${name}`, around: around.bind(group) }],
  };
}
