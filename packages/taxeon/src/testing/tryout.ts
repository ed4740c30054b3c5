/** Tryouts: scripted conversations with the replies they expect. */
import * as v from 'valibot';
import { durationMs } from '../base/time.js';
import type { Exchange, Post } from '../platforms/stand-in/index.js';
import { plainText } from '../replies/notice.js';
import type { VirtualClock } from './clock.js';
import type { Rehearsal } from './config.js';

const text = v.string('give a text');

const expectation = v.strictObject({
  status: v.picklist(
    ['completed', 'refused', 'invalid', 'waiting', 'failed', 'ignored'],
    'give a status such as completed',
  ),
  code: v.optional(text),
  /** A part of what the bot says. */
  says: v.optional(text),
  seenBy: v.optional(v.picklist(['everyone', 'caller'], 'give everyone or caller')),
});

const saying = { by: v.optional(text), at: text, expect: expectation };

const duration = v.pipe(
  text,
  v.check((value) => durationMs(value) !== undefined, 'give a duration such as 2m'),
);

const step = v.union(
  [
    v.strictObject({ scene: text }),
    v.strictObject({ wait: duration }),
    v.strictObject({ ...saying, types: text }),
    v.strictObject({ ...saying, invokes: text, with: v.optional(v.record(text, v.unknown()), {}) }),
  ],
  'a step is one of: scene; wait; at, types and expect; at, invokes and expect',
);

const tryout = v.strictObject({
  tryout: text,
  begins: v.pipe(text, v.isoTimestamp('give a moment such as 2026-05-09T13:00:00Z')),
  steps: v.array(step, 'give a list of steps'),
});

export type Tryout = v.InferOutput<typeof tryout>;
export type TryoutStep = Tryout['steps'][number];
type SpokenStep = Extract<TryoutStep, { expect: unknown }>;

/** A tryout that does not read, with every problem and where it is. */
export class TryoutError extends Error {
  override readonly name = 'TryoutError';

  constructor(readonly problems: readonly string[]) {
    super(`The tryout is wrong: ${problems.join('; ')}`);
  }
}

/**
 * Checks data that came from a file.
 *
 * @throws TryoutError naming each problem and the step it is in.
 */
export function checkTryout(data: unknown): Tryout {
  const parsed = v.safeParse(tryout, data);
  if (parsed.success) return parsed.output;
  throw new TryoutError(parsed.issues.map((issue) => `${v.getDotPath(issue) ?? 'the whole'}: ${issue.message}`));
}

/** A step after it was played. */
export type Played =
  | { readonly kind: 'scene'; readonly text: string }
  | { readonly kind: 'wait'; readonly duration: string }
  | {
      readonly kind: 'exchange';
      readonly step: SpokenStep;
      readonly exchange: Exchange;
      /** How it differs from what was expected; empty where it does not. */
      readonly differences: readonly string[];
    };

/** Plays a tryout step by step on a virtual clock. */
export async function* playTryout(
  { steps }: Tryout,
  { layer, platform }: Rehearsal,
  clock: VirtualClock,
): AsyncGenerator<Played> {
  const serving = await platform.serve(layer);
  try {
    for (const step of steps) {
      if ('scene' in step) yield { kind: 'scene', text: step.scene };
      else if ('wait' in step) {
        clock.advance(durationMs(step.wait) ?? 0);
        yield { kind: 'wait', duration: step.wait };
      } else {
        const exchange = await platform.send(inputOf(step, platform));
        yield { kind: 'exchange', step, exchange, differences: differencesIn(step, exchange) };
      }
    }
  } finally {
    await serving.close();
  }
}

function inputOf(step: SpokenStep, platform: Rehearsal['platform']) {
  const doing = { at: step.at, ...(step.by === undefined ? {} : { by: step.by }) };
  return 'types' in step
    ? platform.typed({ ...doing, text: step.types })
    : platform.invoked({ ...doing, path: step.invokes.split(' '), options: step.with });
}

function differencesIn({ expect }: SpokenStep, { outcome, posts, input }: Exchange): string[] {
  const differences: string[] = [];
  const compare = (what: string, expected: string | undefined, actual: string) => {
    if (expected !== undefined && expected !== actual) differences.push(`${what} is ${actual}, expected ${expected}`);
  };
  compare('status', expect.status, outcome.status);
  compare('code', expect.code, 'code' in outcome ? outcome.code : 'none');
  const said = posts.map((post) => plainText(post.notice)).join('\n');
  if (expect.says !== undefined && !said.includes(expect.says)) {
    differences.push(`the reply is ${JSON.stringify(said)}, expected it to say ${JSON.stringify(expect.says)}`);
  }
  compare('seen by', expect.seenBy, seenBy(posts, input.caller.id));
  return differences;
}

function seenBy([post]: readonly Post[], caller: string): string {
  if (post === undefined) return 'nobody';
  return post.visibleTo === caller ? 'caller' : post.visibleTo;
}
