/** An id that may stand for several people: nobody is told, asked or acted upon by it. */

import { standIn, virtualClock } from '@taxeon/testing';
import { arg, command, createCommandLayer, type Member, type User } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import type { Input } from 'taxeon/platform';
import { expect, test } from 'vitest';
import { codeOf, oddmereData, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

/** The demo's world, in which Wren is one of several behind one address. */
function behindOneAddress() {
  const clock = virtualClock(startOfAfternoon);
  const world = standIn(oddmereData().world, { clock });
  const shares = <T extends Member | User | undefined>(one: T): T =>
    one?.id === 'wren' ? { ...one, sharesId: true } : one;
  const toldBy: string[] = [];
  const { directory } = world;
  const platform: typeof world = {
    ...world,
    directory: {
      ...directory,
      member: async (guild, id) => shares(await directory.member(guild, id)),
      membersNamed: async (guild, name) => (await directory.membersNamed(guild, name)).map(shares),
    },
    tell(person, reply) {
      toldBy.push(person.id);
      return world.tell?.(person, reply);
    },
  };
  const typed = (person: string, text: string): Input => {
    const input = platform.typed({ person, place: 'oddmere/counter', text });
    return { ...input, caller: shares(input.caller as Member) };
  };
  return { clock, platform, typed, toldBy };
}

const described = { description: 'Something' };
const who = { who: arg.member({ ...described, orBot: true }) };

test.each([
  ['told', command({ ...described, name: 'act', args: who, run: ({ args, tell }) => tell(args.who, 'Come.') })],
  [
    'told, and nor is the caller',
    command({ ...described, name: 'act', args: who, run: ({ caller, tell }) => tell(caller, 'Come.') }),
  ],
])('nobody is %s', async (_, act) => {
  const { platform, typed, toldBy } = behindOneAddress();
  const layer = createCommandLayer({ commands: [act], prefixes: ['!'], log: silentLog });
  const outcome = await layer.handle(typed('wren', '!act wren'), platform);
  expect(outcome).toMatchObject({ status: 'completed', reply: { notice: { body: 'unreachable' } } });
  expect(toldBy).toEqual([]);
});

test('nobody is mentioned', async () => {
  const { platform, typed } = behindOneAddress();
  const act = command({ ...described, name: 'act', args: who, run: ({ args, mention }) => mention(args.who) });
  const layer = createCommandLayer({ commands: [act], prefixes: ['!'], log: silentLog });
  const outcome = await layer.handle(typed('ines', '!act wren'), platform);
  expect(outcome).toMatchObject({ reply: { notice: { body: 'Wren' } } });
  expect(outcome).not.toHaveProperty('reply.mentions');
});

test.each([
  ['a member argument', { who: arg.member() }, undefined, 'permission.target'],
  ['a list of members', { who: arg.list(arg.member()) }, undefined, 'permission.target'],
  ['a member who must rank below', who, { orBot: true }, 'permission.rank'],
  ['a member who may be oneself', who, { orBot: true, orSelf: true }, 'permission.rank'],
] as const)('nobody is acted upon: %s', async (_, args, outranks, code) => {
  const { platform, typed } = behindOneAddress();
  const act = command({
    ...described,
    name: 'act',
    args,
    requires: ({ caller }) => (outranks === undefined ? [] : [caller.outranks('who', outranks)]),
    run: () => 'Done.',
  });
  const layer = createCommandLayer({ commands: [act], prefixes: ['!'], log: silentLog });
  for (const by of ['ines', 'wren']) expect(codeOf(await layer.handle(typed(by, '!act wren'), platform))).toBe(code);
});

test('nobody is asked, and nobody answers in place of who was asked before', async () => {
  const { platform, typed } = behindOneAddress();
  const lend = command({
    ...described,
    name: 'lend',
    whenMissing: 'ask',
    args: { tool: arg.text() },
    run: () => 'Lent.',
  });
  const sure = command({ ...described, name: 'sure', confirm: () => 'Sure?', run: () => 'Done.' });
  const own = command({ ...described, name: 'own', run: async ({ confirm }) => String(await confirm('Sure?')) });
  const layer = createCommandLayer({
    commands: [lend, sure, own],
    prefixes: ['!'],
    log: silentLog,
    asking: askInChat(),
  });
  expect(codeOf(await layer.handle(typed('wren', '!lend'), platform))).toBe('argument.missing');
  expect(codeOf(await layer.handle(typed('wren', '!sure'), platform))).toBe('answer.none');
  expect(codeOf(await layer.handle(typed('wren', '!own'), platform))).toBe('answer.none');
  // Alone behind the address at first; then another one speaks.
  const alone = platform.typed({ person: 'wren', place: 'oddmere/counter', text: '!lend' });
  expect(codeOf(await layer.handle(alone, platform))).toBe('waiting');
  expect(await layer.handle(typed('wren', 'drill'), platform)).toEqual({ status: 'ignored', because: 'chat' });
  await layer.close({ within: '1s' });
});

test.each([true, 1, 'no', null, {}])(
  'what a platform says of it in another form counts as shared: %j',
  async (sharesId) => {
    const { platform, typed } = behindOneAddress();
    const own = command({ ...described, name: 'own', run: ({ caller, tell }) => tell(caller, 'Come.') });
    const layer = createCommandLayer({ commands: [own], prefixes: ['!'], log: silentLog });
    const input = typed('ines', '!own');
    const caller = { ...input.caller, sharesId } as never;
    expect(await layer.handle({ ...input, caller }, platform)).toMatchObject({
      reply: { notice: { body: 'unreachable' } },
    });
  },
);
