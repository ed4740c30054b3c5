/** Ordinary chat and whole calls, against bots that are written by hand. */
import { EventEmitter } from 'node:events';
import { type CommandLayer, logCalls, type Outcome } from 'taxeon';
import type { Input } from 'taxeon/platform';
import type { Trace } from 'taxeon/queries';
import { everythingByHand } from '../bots/everything-by-hand.js';
import { everythingLayered, layeredBot } from '../bots/layered.js';
import { listen } from '../bots/listeners.js';
import { borrower, guild, type MovableClock, message, movableClock, rememberingPlatform } from '../bots/oddmere.js';
import { leanSlashBot } from '../bots/slash-lean.js';
import { awaitingTextBot } from '../bots/text-awaiting.js';
import { leanTextBot } from '../bots/text-lean.js';
import { compare, type Side } from '../measure/compare.js';
import { bytesEach } from '../measure/heap.js';
import type { Row } from '../measure/row.js';
import { byHand, CALLS, callsOf, layered, slashCalls, textCalls } from '../measure/sides.js';

const CHAT_LINES = 50_000;
const chatLines = ['good morning', 'is the drill back yet?', 'I bring it tomorrow', 'thanks!', 'see you at six'];

function chatOf(name: string, hear: (line: Input) => unknown): Side {
  const emitter = new EventEmitter();
  emitter.on('message', hear);
  const lines = Array.from({ length: 64 }, (_, index) => message(chatLines[index % chatLines.length] as string));
  return {
    name,
    batch(size) {
      for (let index = 0; index < size; index++) emitter.emit('message', lines[index & 63]);
    },
  };
}

function layeredChat(): Side {
  const layer = layeredBot({ clock: movableClock() });
  const platform = rememberingPlatform({ replies: [] });
  return chatOf('layer', (line) => layer.handle(line, platform));
}

function bareChat(): Side {
  return chatOf('bare startsWith', (line) => {
    if (line.text?.startsWith('!') === true) throw new Error('no line here is a command');
  });
}

const textLayer = () => layered('text', (clock) => layeredBot({ clock }));
const slashLayer = () => layered('slash', (clock) => layeredBot({ clock }), { inputs: slashCalls() });
const leanText = () => byHand('lean text', leanTextBot);

function heard(clock: MovableClock): CommandLayer {
  const layer = layeredBot({ clock });
  const counted = { count: 0 };
  listen((name, listener) => layer.on(name, listener), counted);
  return layer;
}

function logged(clock: MovableClock): CommandLayer {
  const layer = layeredBot({ clock });
  let lines = 0;
  const write = () => void lines++;
  logCalls(layer, { log: { error: write, warn: write, info: write } });
  return layer;
}

/** The last hundred outcomes are kept, as a console for a bot's developer does. */
function traced(read: (trace: Trace) => unknown): Side {
  const kept: Outcome[] = [];
  return callsOf({
    name: 'traced',
    call(clock) {
      const layer = layeredBot({ clock });
      return async (input, platform) => {
        const outcome = await layer.handle(input, platform, { trace: true });
        if (outcome.status === 'ignored' || outcome.trace === undefined) throw new Error('there is no trace');
        read(outcome.trace);
        kept.push(outcome);
        if (kept.length > 100) kept.shift();
        return outcome;
      };
    },
    expected: 'completed',
  });
}

const settings = { prefixes: ['!'], rules: [{ command: 'fine', verdict: 'deny', member: borrower.id }] } as const;

function everything(): Side {
  const counted = { count: 0 };
  return layered(
    'layer',
    (clock) => {
      const layer = everythingLayered(clock, settings);
      listen((name, listener) => layer.on(name, listener), counted);
      return layer;
    },
    { withIds: true },
  );
}

function everythingHand(): Side {
  return callsOf({
    name: 'by hand',
    call(clock) {
      const bot = everythingByHand(clock.now, new Map([[guild.id, settings]]));
      return (input, platform) => bot.onMessage(input, platform);
    },
    expected: 'completed',
    withIds: true,
  });
}

const refused = () =>
  layered('refused', (clock) => layeredBot({ clock }), { inputs: textCalls(borrower), expected: 'permission.caller' });

const misread = () =>
  layered('misread', (clock) => layeredBot({ clock }), {
    inputs: textCalls().map((input) => ({
      ...input,
      text: '!charge [p:person-0000000000002] fifty the saw came back late',
    })),
    expected: 'argument.invalid',
  });

export const calls: readonly Row[] = [
  {
    name: 'chat',
    what: 'an ordinary chat line through an emitter, against a bare `startsWith`',
    goal: 1.5,
    unit: '×',
    why: 'The layer looks at where the line comes from, whose it is, the guild and its settings, and the first character: 26 to 45 ns, as the machine runs.',
    measure: () => compare({ ours: layeredChat, yardstick: bareChat, size: CHAT_LINES }),
  },
  {
    name: 'chat-bytes',
    what: 'heap that it takes, beyond the emitter’s own',
    goal: 1,
    unit: 'bytes',
    async measure() {
      const ours = await bytesEach(layeredChat(), CHAT_LINES);
      const bare = await bytesEach(bareChat(), CHAT_LINES);
      return { value: ours.value - bare.value, low: ours.low - bare.high, high: ours.high - bare.low };
    },
  },
  {
    name: 'text-awaiting',
    what: 'a full text call (alias, member, integer, tail, two permissions, rank, cooldown), against the bot that awaits every look-up',
    goal: 1,
    unit: '×',
    why: 'The bot that awaits does nothing that it need not: no ids are checked, no state is kept for a trace, a log or a late answer, and a platform that hangs is waited for for ever. Of the layer’s time, a fifth is the cooldown (its keys are freed again, which the bots by hand never do), a fifth reading the line, 7 % handing the reply over, and no other stage is above 5 %.',
    measure: () => compare({ ours: textLayer, yardstick: () => byHand('awaiting', awaitingTextBot), size: CALLS }),
  },
  {
    name: 'text-lean',
    what: 'the same, against the lean bot',
    goal: 1.6,
    unit: '×',
    why: 'See text-awaiting. The distance to the goal is no more than between two instances of the layer.',
    measure: () => compare({ ours: textLayer, yardstick: leanText, size: CALLS }),
  },
  {
    name: 'text-bytes',
    what: 'heap that it takes',
    goal: 3000,
    unit: 'bytes',
    why: 'The largest parts: the delivery’s promise with what tries it again (700 bytes), the state and its conversation (360), what the handler is called with (350), reading (370), the platform’s own (350).',
    measure: () => bytesEach(textLayer(), CALLS),
  },
  {
    name: 'slash-lean',
    what: 'a slash call, against the lean slash handler',
    goal: 2,
    unit: '×',
    why: 'The handler by hand takes the options as they are, and does little more than two look-ups and a promise. The layer reads them as the same texts that a person would type, so that both surfaces refuse alike; the stages around are those of a text call.',
    measure: () =>
      compare({ ours: slashLayer, yardstick: () => byHand('lean slash', leanSlashBot, slashCalls()), size: CALLS }),
  },
  {
    name: 'slash-text',
    what: 'a slash call, over the text call',
    goal: 0.75,
    unit: '×',
    why: 'Reading the line is a fifth of a text call; all else is the same on slash.',
    measure: () => compare({ ours: slashLayer, yardstick: textLayer, size: CALLS }),
  },
  {
    name: 'async',
    what: 'a handler that gives a promise, over one that does not',
    goal: 1.3,
    unit: '×',
    measure: () =>
      compare({
        ours: () => layered('async', (clock) => layeredBot({ clock, isAsync: true })),
        yardstick: textLayer,
        size: CALLS,
      }),
  },
  {
    name: 'everything',
    what: 'everything on (a guild’s settings, event ids, a running limit, two cooldowns, three listeners), against the same by hand',
    goal: 1.6,
    unit: '×',
    why: 'The distance to the goal is no more than between two instances of the layer. Of the layer’s time, a quarter are the three limits, and 18 % looking the event’s id up among those of the last minutes.',
    measure: () => compare({ ours: everything, yardstick: everythingHand, size: CALLS }),
  },
  {
    name: 'listeners',
    what: 'three listeners that fire, over none',
    goal: 1.25,
    unit: '×',
    why: 'Each of the nine stages behind the gates is timed: 9 % of the call is looking at the clock for it.',
    measure: () => compare({ ours: () => layered('heard', heard), yardstick: textLayer, size: CALLS }),
  },
  {
    name: 'log',
    what: 'a line in the log for each call, over none',
    goal: 1.75,
    unit: '×',
    why: 'Every name and value in a line of the log is made visible first.',
    measure: () => compare({ ours: () => layered('logged', logged), yardstick: textLayer, size: CALLS }),
  },
  {
    name: 'trace',
    what: 'a trace that is kept, over none',
    goal: 1.5,
    unit: '×',
    why: 'Each of the eleven stages is timed, and looking at the clock took 144 ns when it was measured.',
    measure: () => compare({ ours: () => traced(() => undefined), yardstick: textLayer, size: CALLS }),
  },
  {
    name: 'trace-read',
    what: 'a trace that is read, over none',
    goal: 4,
    unit: '×',
    measure: () => compare({ ours: () => traced((trace) => trace.stages.length), yardstick: textLayer, size: CALLS }),
  },
  {
    name: 'refusal',
    what: 'a refusal with its message, over a completed call',
    goal: 1,
    unit: '×',
    measure: () => compare({ ours: refused, yardstick: textLayer, size: CALLS }),
  },
  {
    name: 'misread',
    what: 'an argument that is wrong with its message, over a completed call',
    goal: 1.5,
    unit: '×',
    measure: () => compare({ ours: misread, yardstick: textLayer, size: CALLS }),
  },
];
