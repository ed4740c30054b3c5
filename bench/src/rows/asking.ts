/** Chat in a bot that asks: with nothing asked, and with 10,000 people asked elsewhere. */
import { EventEmitter } from 'node:events';
import { arg, command, createCommandLayer, type Outcome } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import type { Input } from 'taxeon/platform';
import {
  callersLike,
  type MovableClock,
  message,
  movableClock,
  quiet,
  rememberingPlatform,
  steward,
} from '../bots/oddmere.js';
import { compare, type Side } from '../measure/compare.js';
import type { Row } from '../measure/row.js';

const CHAT_LINES = 50_000;
const OPEN = 10_000;
const chatLines = ['good morning', 'is the drill back yet?', 'I bring it tomorrow', 'thanks!', 'see you at six'];

const fine = command({
  name: 'fine',
  description: 'Charge a late return',
  whenMissing: 'ask',
  args: { pence: arg.integer({ min: 1, max: 500 }) },
  run: ({ args }) => `${args.pence} pence.`,
});

/** Takes a line, as the platform's emitter gives it. */
function hearing(clock: MovableClock, asks: boolean): (line: Input) => Promise<Outcome> {
  const commands = asks ? [fine] : [command({ ...fine.declaration, whenMissing: 'refuse' })];
  const asking = asks ? { asking: askInChat({ within: '1d' }) } : {};
  const layer = createCommandLayer({ commands, prefixes: ['!'], clock, log: quiet, ...asking });
  const platform = rememberingPlatform({ replies: [] });
  return (line) => layer.handle(line, platform);
}

/** People who only talk; of `open` others an answer is awaited. */
function chat(name: string, asks: boolean, open: number): Side {
  const hear = hearing(movableClock(), asks);
  const emitter = new EventEmitter();
  emitter.on('message', hear);
  const lines = Array.from({ length: 64 }, (_, index) => message(chatLines[index % chatLines.length] as string));
  const asked = callersLike(steward).slice(0, open);
  let isOpen = false;
  return {
    name,
    async batch(size) {
      if (!isOpen) {
        isOpen = true;
        for (const caller of asked) {
          const { status } = await hear(message('!fine', caller));
          if (status !== 'waiting') throw new Error(`${name}: ${status} instead of a question`);
        }
      }
      for (let index = 0; index < size; index++) emitter.emit('message', lines[index & 63]);
    },
  };
}

export const asking: readonly Row[] = [
  {
    name: 'asking-none',
    what: 'an ordinary chat line in a bot that asks, while nothing is asked, over one that does not ask',
    goal: 1.15,
    unit: '×',
    measure: () =>
      compare({ ours: () => chat('asks', true, 0), yardstick: () => chat('does not ask', false, 0), size: CHAT_LINES }),
  },
  {
    name: 'asking-open',
    what: `the same while ${OPEN.toLocaleString('en')} others are asked, over none`,
    goal: 1.15,
    unit: '×',
    measure: () =>
      compare({
        ours: () => chat('10,000 asked', true, OPEN),
        yardstick: () => chat('none asked', true, 0),
        size: CHAT_LINES,
      }),
  },
];
