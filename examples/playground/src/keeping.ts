/** What was done, as a tryout, a file or a link; and reading these again. */

import { checkTryout } from '@taxeon/testing/tryouts';
import loader from 'js-yaml/lib/loader.js';
import coreSchema from 'js-yaml/lib/schema/core.js';
import { parseDuration } from 'taxeon';
import type { SaidItem, Step, Workshop } from './workshop.js';

/** The page's state as open JSON: what was done, from which everything else follows. */
export interface Kept {
  readonly playground: 1;
  readonly steps: readonly Step[];
}

export function keptOf({ steps }: Workshop): Kept {
  return { playground: 1, steps };
}

/** As the end of an address: base64url of the JSON. */
export function linkOf(kept: Kept): string {
  const bytes = new TextEncoder().encode(JSON.stringify(kept));
  const text = btoa(Array.from(bytes, (byte) => String.fromCharCode(byte)).join(''));
  return `#play=${text.replaceAll('+', '-').replaceAll('/', '_').replaceAll('=', '')}`;
}

/** @throws Error with a sentence that says what is wrong. */
export function stepsFromLink(hash: string): Kept | undefined {
  const text = /^#play=(.*)$/.exec(hash)?.[1];
  if (text === undefined) return undefined;
  let data: unknown;
  try {
    const bytes = Uint8Array.from(atob(text.replaceAll('-', '+').replaceAll('_', '/')), (sign) => sign.charCodeAt(0));
    data = JSON.parse(new TextDecoder().decode(bytes));
  } catch {
    throw new Error('The link is broken: a part of it is missing. Nothing was loaded.');
  }
  return checkedKept(data);
}

/** What was kept, or a tryout, in JSON or YAML. */
export function stepsFromText(text: string): readonly Step[] {
  let data: unknown;
  try {
    data = loader.load(text, { schema: coreSchema });
  } catch (error) {
    throw new Error(`This is neither JSON nor YAML: ${firstLine(error)}`);
  }
  const isKept = typeof data === 'object' && data !== null && 'playground' in data;
  return isKept ? checkedKept(data).steps : stepsFromTryout(data);
}

/** Scenes are headings, what happens is the configuration's; what is done at the console has nobody who does it here. */
function stepsFromTryout(data: unknown): readonly Step[] {
  return checkTryout(data).lines.flatMap((line): Step[] => {
    if ('scene' in line || 'happens' in line || 'as' in line) return [];
    if ('wait' in line) return [{ wait: parseDuration(line.wait) ?? 0 }];
    const { person, place } = line;
    if (person === undefined) return [];
    if ('types' in line) return [{ person, place, types: line.types }];
    return 'fills' in line
      ? [{ person, place, fills: line.fills }]
      : [{ person, place, invokes: line.invokes, options: texts(line.options) }];
  });
}

function texts(values: Readonly<Record<string, unknown>>): Record<string, string> {
  return Object.fromEntries(Object.entries(values).map(([name, value]) => [name, String(value)]));
}

function checkedKept(data: unknown): Kept {
  const { playground, steps } = (data ?? {}) as Partial<Kept>;
  if (playground !== 1 || !Array.isArray(steps)) {
    throw new Error('This is nothing that the playground has kept. Nothing was loaded.');
  }
  for (const [index, step] of steps.entries()) {
    if (!isStep(step)) throw new Error(`Step ${index + 1} does not read. Nothing was loaded.`);
  }
  return { playground, steps };
}

function isStep(step: unknown): step is Step {
  if (typeof step !== 'object' || step === null) return false;
  const { wait, person, place, types, invokes, options, fills, guild, member, roles, settings } = step as Record<
    string,
    unknown
  >;
  if (wait !== undefined) return typeof wait === 'number' && wait >= 0;
  if (guild !== undefined) {
    const isRoles = typeof member === 'string' && Array.isArray(roles);
    return typeof guild === 'string' && (isRoles || (typeof settings === 'object' && settings !== null));
  }
  if (typeof person !== 'string' || typeof place !== 'string') return false;
  if (typeof fills === 'object' && fills !== null) return Object.values(fills).every((one) => typeof one === 'string');
  return typeof types === 'string' || (typeof invokes === 'string' && typeof options === 'object' && options !== null);
}

/** The conversation as a tryout, with what came of each input as what is expected of it. */
export function tryoutOf({ steps, feed }: Workshop, title: string): object {
  const said = feed.filter((item): item is SaidItem => item.kind === 'said');
  let index = 0;
  return {
    tryout: title,
    begins: '2026-05-09T13:00:00Z',
    lines: steps.flatMap((step): object[] => {
      if ('wait' in step) return [{ wait: `${Math.max(1, Math.round(step.wait / 1000))}s` }];
      if (!('person' in step)) return [];
      const outcome = said[index]?.outcome;
      index += 1;
      const code = outcome !== undefined && 'code' in outcome ? { code: outcome.code } : {};
      return [{ ...step, expect: { status: outcome?.status ?? 'completed', ...code } }];
    }),
  };
}

function firstLine(error: unknown): string {
  return (error instanceof Error ? error.message : String(error)).split('\n', 1)[0] ?? '';
}
