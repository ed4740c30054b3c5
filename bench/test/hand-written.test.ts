import type { Member, Outcome } from 'taxeon';
import type { Input, Reply } from 'taxeon/platform';
import { describe, expect, test } from 'vitest';
import type { ByHand } from '../src/bots/by-hand.js';
import { everythingByHand } from '../src/bots/everything-by-hand.js';
import { everythingLayered, layeredBot } from '../src/bots/layered.js';
import { borrower, guild, invocation, message, rememberingPlatform, steward } from '../src/bots/oddmere.js';
import { leanSlashBot } from '../src/bots/slash-lean.js';
import { awaitingTextBot } from '../src/bots/text-awaiting.js';
import { leanTextBot } from '../src/bots/text-lean.js';

type Line = readonly [text: string, caller: Member, expected: string | undefined];

const lines: readonly Line[] = [
  ['good morning', steward, undefined],
  ['is the !drill back?', steward, undefined],
  ['!charge [p:person-0000000000002] 50 the saw came back late', steward, 'completed'],
  ['!fine [p:person-0000000000002] 1', steward, 'completed'],
  ['!FINE person-0000000000002 500 late', steward, 'completed'],
  ['!fine [p:person-0000000000002] 3', steward, 'cooldown.active'],
  ['!anvil', steward, 'command.unknown'],
  ['!fine', steward, 'argument.missing'],
  ['!fine [p:person-0000000000002]', steward, 'argument.missing'],
  ['!fine [p:person-0000000000009] 5', steward, 'argument.invalid'],
  ['!fine [p:person-0000000000002] 10abc', steward, 'argument.invalid'],
  ['!fine [p:person-0000000000002] 501', steward, 'argument.invalid'],
  ['!fine [p:person-0000000000002] 0', steward, 'argument.invalid'],
  ['!fine [p:person-0000000000002] 5', borrower, 'permission.caller'],
  ['!fine [p:person-0000000000001] 5', steward, 'permission.rank'],
  ['!fine [p:person-0000000000003] 5', steward, 'permission.target'],
];

const who = '[p:person-0000000000002]';
const options: readonly (readonly [Readonly<Record<string, unknown>>, Member, string])[] = [
  [{ who, pence: 50, note: 'the saw came back late' }, steward, 'completed'],
  [{ who, pence: 1 }, steward, 'completed'],
  [{ who: 'person-0000000000002', pence: 500, note: 'late' }, steward, 'completed'],
  [{ who, pence: 3 }, steward, 'cooldown.active'],
  [{}, steward, 'argument.missing'],
  [{ who }, steward, 'argument.missing'],
  [{ who: '[p:person-0000000000009]', pence: 5 }, steward, 'argument.invalid'],
  [{ who, pence: 501 }, steward, 'argument.invalid'],
  [{ who, pence: 1.5 }, steward, 'argument.invalid'],
  [{ who, pence: 5 }, borrower, 'permission.caller'],
  [{ who: '[p:person-0000000000001]', pence: 5 }, steward, 'permission.rank'],
  [{ who: '[p:person-0000000000003]', pence: 5 }, steward, 'permission.target'],
];

const clock = { now: () => 1_000_000 };
const textInputs = lines.map(([text, caller]) => message(text, caller));
const textCodes = lines.map(([, , expected]) => expected);
const settings = { prefixes: ['!'], rules: [{ command: 'fine', verdict: 'deny', member: borrower.id }] } as const;

function codeOf(outcome: Outcome): string | undefined {
  if (outcome.status === 'ignored') return undefined;
  return 'code' in outcome ? outcome.code : outcome.status;
}

/** The codes of all inputs, and what was said of those that completed. */
async function played(inputs: readonly Input[], handle: (input: Input, said: Reply[]) => unknown) {
  const codes: unknown[] = [];
  const told: string[] = [];
  for (const input of inputs) {
    const said: Reply[] = [];
    const code = await handle(input, said);
    codes.push(code);
    if (code === 'completed') told.push(...said.map(({ notice }) => notice.body));
  }
  return { codes, told };
}

const byHand = (bot: ByHand<unknown>) => (input: Input, replies: Reply[]) =>
  bot.onMessage(input, rememberingPlatform({ replies }));

const onLayer = (layer: ReturnType<typeof layeredBot>) => async (input: Input, replies: Reply[]) =>
  codeOf(await layer.handle(input, rememberingPlatform({ replies })));

describe('the yardsticks of the benchmark give the same outcomes as the layer', () => {
  test.each([
    ['lean, on text', () => leanTextBot(clock.now), () => layeredBot({ clock })],
    ['awaiting, on text', () => awaitingTextBot(clock.now), () => layeredBot({ clock })],
    [
      'with everything on',
      () => everythingByHand(clock.now, new Map([[guild.id, settings]])),
      () => everythingLayered(clock, settings),
    ],
  ])('%s', async (_, bot, layer) => {
    const hand = await played(textInputs, byHand(bot()));
    const layered = await played(textInputs, onLayer(layer()));
    expect(hand.codes).toEqual(textCodes);
    expect(layered).toEqual(hand);
    expect(hand.told).toHaveLength(3);
  });

  test('lean, on slash', async () => {
    const inputs = options.map(([given, caller]) => invocation(given, caller));
    const hand = await played(inputs, byHand(leanSlashBot(clock.now)));
    const layered = await played(inputs, onLayer(layeredBot({ clock })));
    expect(hand.codes).toEqual(options.map(([, , expected]) => expected));
    expect(layered).toEqual(hand);
    expect(hand.told).toHaveLength(3);
  });

  test('and both tell three listeners of a call', async () => {
    const bot = everythingByHand(clock.now, new Map());
    await bot.onMessage(message('!fine [p:person-0000000000002] 1'), rememberingPlatform({ replies: [] }));
    expect(bot.heard.count).toBe(3);
  });
});
