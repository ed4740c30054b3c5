/** Every requirement that the builder makes, found by walking it, so that a new one needs no mention here. */
import { arg, command, type Requirement } from 'taxeon';
import { sceneOf } from './oddmere.js';

const forName = (name: string) => (/outranks/.test(name) ? 'who' : 'steward');

/** Each with its name: `caller.can`, `target.isBot` … */
export async function everyRequirement(): Promise<readonly (readonly [string, Requirement])[]> {
  const found: [string, Requirement][] = [];
  const act = command({
    name: 'act',
    description: 'Something',
    args: { who: arg.member() },
    requires: (builder) => {
      const parts = { caller: builder.caller, bot: builder.bot, target: builder.target('who') };
      for (const [part, makers] of Object.entries(parts)) {
        for (const [name, make] of Object.entries(makers))
          found.push([`${part}.${name}`, (make as (argument: string) => Requirement)(forName(name))]);
      }
      found.push(...found.map(([name, one]) => [`not ${name}`, builder.not(one)] as [string, Requirement]));
      return [];
    },
    run: () => 'done',
  });
  await sceneOf([act]);
  return found;
}
