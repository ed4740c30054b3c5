/** What a command has from the groups around it. */
import { type CompiledRequirement, compileRequirements } from '../access/compile.js';
import { requirementBuilder } from '../access/requirements/index.js';
import type { WhenMissing } from '../commands/arg.js';
import type { RefusalHook, Whereabouts } from '../commands/call.js';
import type { AnyDeclaration, Scope } from '../commands/command.js';
import type { GroupDeclaration } from '../commands/group.js';
import type { MessageOverrides } from '../contract/codes.js';
import type { AroundBy } from './around.js';
import type { CompiledGroup } from './catalogue.js';
import { type Counted, countedOf } from './counted.js';

export interface Inherited {
  groups: readonly CompiledGroup[];
  readonly path: string;
  readonly id: string;
  readonly ids: readonly string[];
  readonly section: string | undefined;
  readonly scopes: Readonly<Record<string, readonly string[]>>;
  readonly scope: Scope;
  readonly in: Whereabouts | undefined;
  readonly surfaces: AnyDeclaration['surfaces'];
  readonly requires: readonly CompiledRequirement[];
  readonly counted: readonly Counted[];
  readonly messages: MessageOverrides | undefined;
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
  scopes: {},
  scope: 'global',
  in: undefined,
  surfaces: undefined,
  requires: [],
  counted: [],
  messages: undefined,
  whenMissing: undefined,
  onRefusal: undefined,
  arounds: [],
};

export function groupParts(group: GroupDeclaration, from: Inherited) {
  const section = group.section ?? from.section;
  const id = group.id ?? `${from.id}${group.name}`;
  return {
    kind: 'group',
    name: `${from.path}${group.name}`,
    word: group.name,
    id,
    ids: [id, ...from.ids, ...sectionIds(section)],
    section,
    localized: group.localized,
    description: group.description,
    aliases: group.aliases ?? [],
  } as const;
}

/** The id under which a guild decides about a section. */
export function sectionId(section: string): string {
  return `section:${section}`;
}

export function sectionIds(section: string | undefined): string[] {
  return section === undefined ? [] : [sectionId(section)];
}

export function inheritedFrom(
  group: GroupDeclaration,
  from: Inherited,
  { id, name, section }: ReturnType<typeof groupParts>,
) {
  const { messages, around } = group;
  return {
    groups: from.groups,
    path: `${name} `,
    id: `${id}.`,
    ids: [id, ...from.ids],
    section,
    scopes: from.scopes,
    scope: group.scope ?? from.scope,
    in: group.in ?? from.in,
    surfaces: group.surfaces ?? from.surfaces,
    requires: [...from.requires, ...compileRequirements(group.requires?.(requirementBuilder) ?? [])],
    counted: [...from.counted, ...countedOf(group, id)],
    messages: messages === undefined ? from.messages : { ...from.messages, ...messages },
    whenMissing: group.whenMissing ?? from.whenMissing,
    onRefusal: group.onRefusal?.bind(group) ?? from.onRefusal,
    arounds:
      around === undefined ? from.arounds : [...from.arounds, { by: `the group ${name}`, around: around.bind(group) }],
  };
}
