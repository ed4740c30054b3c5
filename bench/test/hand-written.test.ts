import type { Input, Member, Outcome } from 'taxeon';
import { expect, test } from 'vitest';
import { handWrittenBot } from '../src/hand-written.js';
import { layeredBot } from '../src/layered.js';
import { borrower, message, rememberingPlatform, steward } from '../src/messages.js';

const lines: readonly [text: string, caller: Member, expected: string | undefined][] = [
  ['good morning', steward, undefined],
  ['is the !drill back?', steward, undefined],
  ['!charge <100000000000000002> 50 the saw came back late', steward, 'completed'],
  ['!fine <100000000000000002> 1', steward, 'completed'],
  ['!FINE 100000000000000002 500 late', steward, 'completed'],
  ['!fine <100000000000000002> 3', steward, 'cooldown.active'],
  ['!anvil', steward, 'command.unknown'],
  ['!fine', steward, 'argument.missing'],
  ['!fine <100000000000000002>', steward, 'argument.missing'],
  ['!fine <100000000000000009> 5', steward, 'argument.invalid'],
  ['!fine <100000000000000002> 10abc', steward, 'argument.invalid'],
  ['!fine <100000000000000002> 501', steward, 'argument.invalid'],
  ['!fine <100000000000000002> 0', steward, 'argument.invalid'],
  ['!fine <100000000000000002> 5', borrower, 'permission.caller'],
  ['!fine <100000000000000001> 5', steward, 'permission.rank'],
  ['!fine <100000000000000003> 5', steward, 'permission.target'],
];

function codeOf(outcome: Outcome): string | undefined {
  if (outcome.status === 'ignored') return undefined;
  return 'code' in outcome ? outcome.code : outcome.status;
}

test('the yardstick of the benchmark gives the same outcomes as the layer', async () => {
  const clock = () => 1_000_000;
  const byHand = handWrittenBot(clock);
  const layer = layeredBot(clock);
  const saidByHand = { replies: [] as { notice: { body: string } }[] };
  const saidByLayer = { replies: [] as { notice: { body: string } }[] };
  for (const [text, caller, expected] of lines) {
    const input = (): Input => message(text, caller);
    expect([text, await byHand.onMessage(input(), rememberingPlatform(saidByHand as never))]).toEqual([text, expected]);
    expect([text, codeOf(await layer.handle(input(), rememberingPlatform(saidByLayer as never)))]).toEqual([
      text,
      expected,
    ]);
  }
  const completed = (said: typeof saidByHand) =>
    said.replies.map(({ notice }) => notice.body).filter((body) => body.includes('owes'));
  expect(completed(saidByLayer)).toEqual(completed(saidByHand));
  expect(completed(saidByHand)).toHaveLength(3);
});
