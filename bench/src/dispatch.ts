/** Dispatch against a hand-written bot: ordinary chat, and a full call by an alias. */
import { EventEmitter } from 'node:events';
import { type Input, logCalls, type Outcome, type Platform, type Reply } from 'taxeon';
import { compare, printRatios, type Side } from './compare.js';
import { handWrittenBot } from './hand-written.js';
import { layeredBot } from './layered.js';
import { borrower, message, rememberingPlatform } from './messages.js';

const CHAT_LINES = 50_000;
const CALLS = 2_000;
/** Far enough apart that no call of one person is ever refused by the cooldown. */
const STEP_MS = 30_000;

const chatLines = ['good morning', 'is the drill back yet?', 'I bring it tomorrow', 'thanks!', 'see you at six'];

function chatSide(name: string, listen: (line: Input) => unknown): Side {
  const emitter = new EventEmitter();
  emitter.on('message', listen);
  const lines = Array.from({ length: 64 }, (_, index) => message(chatLines[index % chatLines.length] as string));
  return {
    name,
    batch(size) {
      for (let index = 0; index < size; index++) emitter.emit('message', lines[index & 63]);
    },
  };
}

function ticking(): () => number {
  let now = 1_000_000;
  return () => {
    now += STEP_MS;
    return now;
  };
}

function callInputs(): Input[] {
  return Array.from({ length: 256 }, (_, index) =>
    message(`!charge <100000000000000002> ${1 + index} the saw came back late`),
  );
}

/** Awaits one call after the other, and checks afterwards that each was answered. */
function callSide(
  name: string,
  call: (input: Input, platform: Platform) => Promise<unknown>,
  isRight: (result: unknown) => boolean,
): Side {
  const inputs = callInputs();
  const replies: Reply[] = [];
  const platform = rememberingPlatform({ replies });
  return {
    name,
    async batch(size) {
      replies.length = 0;
      for (let index = 0; index < size; index++) {
        const result = await call(inputs[index & 255] as Input, platform);
        if (!isRight(result)) throw new Error(`${name} refused a call: ${JSON.stringify(result)}`);
      }
      if (replies.length !== size) throw new Error(`${name} answered ${replies.length} of ${size} calls`);
    },
  };
}

/** The same calls with three listeners, two of them on how calls end. */
function heardCalls(): Side {
  const layer = layeredBot(ticking());
  let heard = 0;
  for (const name of ['started', 'completed', 'refused'] as const) layer.on(name, () => heard++);
  return callSide(
    'layer, heard',
    (input, platform) => layer.handle(input, platform),
    (outcome) => (outcome as Outcome).status === 'completed' && heard > 0,
  );
}

/** The same calls with a line in the log for each. */
function loggedCalls(): Side {
  const layer = layeredBot(ticking());
  let lines = 0;
  const write = () => void lines++;
  logCalls(layer, { log: { error: write, warn: write, info: write } });
  return callSide(
    'layer, logged',
    (input, platform) => layer.handle(input, platform),
    (outcome) => (outcome as Outcome).status === 'completed' && lines > 0,
  );
}

/** Calls by somebody who lacks the permission, each answered with its message. */
function refusedCalls(): Side {
  const layer = layeredBot(ticking());
  return callSide(
    'layer, refused',
    (input, platform) => layer.handle({ ...input, caller: borrower }, platform),
    (outcome) => (outcome as Outcome).status === 'refused',
  );
}

function layeredCalls(trace: boolean): Side {
  const layer = layeredBot(ticking());
  return callSide(
    trace ? 'layer, traced' : 'layer',
    (input, platform) => layer.handle(input, platform, { trace }),
    (outcome) => (outcome as Outcome).status === 'completed',
  );
}

function handWrittenCalls(): Side {
  const bot = handWrittenBot(ticking());
  return callSide(
    'hand-written',
    (input, platform) => bot.onMessage(input, platform),
    (code) => code === 'completed',
  );
}

/** Bytes of heap that a line takes on a side, the emitter's own included; needs `--expose-gc`. */
function bytesPerLine(side: Side): number {
  const collect = globalThis.gc;
  if (collect === undefined) throw new Error('run with --expose-gc');
  collect();
  const before = process.memoryUsage().heapUsed;
  // Few enough that no garbage collection falls in between.
  side.batch(CHAT_LINES);
  return (process.memoryUsage().heapUsed - before) / CHAT_LINES;
}

const quiet = rememberingPlatform({ replies: [] });
const layer = layeredBot(ticking());
const layeredChat = chatSide('layer', (line) => layer.handle(line, quiet));
const bareChat = chatSide('bare startsWith', (line) => {
  if (line.text?.startsWith('!') !== true) return;
  throw new Error('no line here is a command');
});

const ratios = [
  await compare({ name: 'ordinary chat line', ours: layeredChat, yardstick: bareChat, size: CHAT_LINES }),
  await compare({ name: 'full text call', ours: layeredCalls(false), yardstick: handWrittenCalls(), size: CALLS }),
  await compare({ name: 'trace over none', ours: layeredCalls(true), yardstick: layeredCalls(false), size: CALLS }),
  await compare({ name: 'three listeners over none', ours: heardCalls(), yardstick: layeredCalls(false), size: CALLS }),
  await compare({
    name: 'a line in the log over none',
    ours: loggedCalls(),
    yardstick: layeredCalls(false),
    size: CALLS,
  }),
  await compare({ name: 'a refusal over a call', ours: refusedCalls(), yardstick: layeredCalls(false), size: CALLS }),
];
printRatios('bench/dispatch', ratios);
const bytes = bytesPerLine(layeredChat) - bytesPerLine(bareChat);
console.log(`\nheap taken by an ordinary chat line, beyond the emitter's own: ${bytes.toFixed(3)} bytes`);
