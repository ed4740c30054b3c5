/** Every kind of argument, without a list by hand: as docs/arguments.md declares it, else as it is without options. */
import { readFileSync } from 'node:fs';
import type { Arg } from 'taxeon';
import * as arg from 'taxeon/arg';
import * as z from 'zod';

export interface KindOnPage {
  readonly kind: string;
  /** As a developer writes it. */
  readonly declaration: string;
  readonly declared: Arg<unknown>;
  /** What is typed, and what comes of it. */
  readonly rows: readonly (readonly [typed: string, result: string])[];
}

const page = readFileSync(new URL('../../docs/arguments.md', import.meta.url), 'utf8');

export const kindsOnPage: readonly KindOnPage[] = page
  .split('\n## ')
  .slice(1)
  .flatMap((section) => {
    const [kind = ''] = section.split('\n', 1);
    const declared = section.split('```ts\n').slice(1);
    return declared.map((block) => [kind, block] as const).filter(([, block]) => /^\| typed /m.test(block));
  })
  .map(([kind, block]) => {
    const declaration = /^(?:import .*\n\n)?(.*?)\n```/s.exec(block)?.[1] ?? '';
    const rows = [...block.matchAll(/^\| (?:`(.+?)`|\(nothing\)) \| (.*) \|$/gm)].map(
      ([, typed = '', result = '']) => [typed, result.replaceAll('<br>', '\n')] as const,
    );
    return { kind, declaration, declared: new Function('arg', 'z', `return ${declaration}`)(arg, z), rows };
  });

const others = Object.entries(arg)
  .filter(([name]) => !kindsOnPage.some(({ declaration }) => declaration.startsWith(`arg.${name}(`)))
  .map(([name, make]) => [name, (make as (options: object) => Arg<unknown>)({ description: 'Something' })] as const);

export const everyKind: readonly (readonly [string, Arg<unknown>])[] = [
  ...kindsOnPage.map(({ kind, declared }) => [kind, declared] as const),
  ...others,
];
