/** The words that a bot has, declared once. */
import { arg, createCommandLayer, DeclarationError, vocabulary } from 'taxeon';
import { describe, expect, test } from 'vitest';
import { codeOf, sceneOf, silentLog } from '../../../test/support/oddmere.js';

const bot = vocabulary({
  permissions: ['fine', 'certify'],
  roles: ['steward'],
  scopes: ['staging'],
  codes: ['tool.out'],
});
const described = { description: 'Something', run: () => 'done' };

describe('a vocabulary', () => {
  test('gives a command, a group and a refusal that work as any other', async () => {
    const { command, group, refuse } = bot;
    const act = command({
      ...described,
      name: 'act',
      args: { who: arg.member() },
      requires: ({ caller, target, not }) => [
        caller.can('fine'),
        caller.holds('steward'),
        not(target('who').can('certify')),
      ],
      cooldowns: { user: { allow: '5 in 1m', exempt: ({ caller }) => [caller.can('certify')] } },
      run: ({ args }) => refuse('tool.out', `${args.who.name} has it.`),
    });
    const scene = await sceneOf([
      group({ name: 'shed', description: 'x', requires: ({ caller }) => [caller.can('fine')], commands: [act] }),
    ]);
    expect(codeOf((await scene.types('wren', '!shed act tobias')).outcome)).toBe('permission.caller');
    expect(codeOf((await scene.types('ines', '!shed act wren')).outcome)).toBe('tool.out');
  });

  test('makes a misspelt word an error of the compiler', () => {
    const { command, group, refuse } = bot;
    // @ts-expect-error no such permission
    command({ ...described, name: 'a', requires: ({ caller }) => [caller.can('fien')] });
    // @ts-expect-error no such role
    command({ ...described, name: 'a', requires: ({ caller }) => [caller.holds('stewart')] });
    // @ts-expect-error no such permission, of the bot
    command({ ...described, name: 'a', requires: ({ bot: own }) => [own.can('fien')] });
    const user = {
      allow: '20s',
      // @ts-expect-error no such permission, in an exemption
      exempt: ({ caller }) => [caller.can('fien')],
    } satisfies Limit;
    command({ ...described, name: 'a', cooldowns: { user } as never });
    // @ts-expect-error no such set of guilds
    command({ ...described, name: 'a', scope: 'stagin' });
    // @ts-expect-error no such permission, in a group
    group({ name: 'g', description: 'x', requires: ({ caller }) => [caller.can('fien')], commands: [] });
    // @ts-expect-error no such code
    expect(() => refuse('tool.uot', 'No.')).toThrow('tool.uot is no code of the vocabulary');
    command({ ...described, name: 'a', scope: ['everywhere', 'staging', 'irc/#oddmere'] });
  });

  test('says no more than it has: other words are free', () => {
    const { command, refuse } = vocabulary({ permissions: ['fine'] });
    command({ ...described, name: 'a', scope: 'anything', requires: ({ caller }) => [caller.holds('anybody')] });
    expect(refuse('any.code', 'No.').code).toBe('any.code');
  });

  const wrong: [string, object, string][] = [
    [
      'a permission',
      { requires: (of: never) => [(of as Words).caller.can('fien')] },
      'names the permission "fien", which the vocabulary does not have; did you mean fine?',
    ],
    [
      'one under not',
      { requires: (of: never) => [(of as Words).not((of as Words).caller.can('x'))] },
      'names the permission "x", which the vocabulary does not have; add it there',
    ],
    [
      'a role',
      { requires: (of: never) => [(of as Words).caller.holds('stewart')] },
      'names the role "stewart", which the vocabulary does not have; did you mean steward?',
    ],
    ['a set of guilds', { scope: 'library' }, 'names "library", which is no set of guilds'],
  ];
  test.each(wrong)('is held to when the layer is made, in JavaScript too: %s', (_, more, expected) => {
    const commands = [bot.command({ ...described, name: 'a', ...more } as never)];
    const made = () => createCommandLayer({ commands, scopes: { staging: [], library: [] }, log: silentLog });
    expect(made).toThrow(DeclarationError);
    expect(made).toThrow(expected);
  });
});

type Limit = NonNullable<NonNullable<Parameters<typeof bot.command>[0]['cooldowns']>['user']>;

interface Words {
  readonly caller: { can(of: string): unknown; holds(of: string): unknown };
  not(of: unknown): unknown;
}
