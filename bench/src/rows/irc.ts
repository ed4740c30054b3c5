/** What of an answer's time on IRC is the layer's own: from the line that was heard to the reply that is handed over. */

import { irc } from '@taxeon/irc';
import { arg, command, createCommandLayer } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import { joinAs, startIrcServer } from '../../../packages/irc/test/support/ngircd.js';
import { until } from '../../../test/support/programs.js';
import { quiet } from '../bots/oddmere.js';
import { one, type Row } from '../measure/row.js';

const PEOPLE = 20;
const LINES = 50;

async function p99Ms(): Promise<number> {
  const server = await startIrcServer();
  const people = await Promise.all(
    Array.from({ length: PEOPLE }, (_, n) => joinAs(`Borrower${n}`, server.port, '#oddmere')),
  );
  const heardAt = new Map<Input, number>();
  const took: number[] = [];
  const { deliver, ...rest } = irc({
    host: '127.0.0.1',
    port: server.port,
    nick: 'Mallet',
    channels: ['#oddmere'],
    pace: '100000 in 1s',
    log: quiet,
  });
  const platform: Platform = {
    ...rest,
    deliver(reply, to, key) {
      took.push(performance.now() - (heardAt.get(to) ?? 0));
      return deliver(reply, to, key);
    },
  };
  const borrow = command({
    name: 'borrow',
    aliases: ['take'],
    description: 'Borrow a tool',
    args: { tool: arg.text(), days: arg.integer({ min: 1, max: 14 }), note: arg.tail({ optional: true }) },
    cooldowns: { user: '1000 in 1m' },
    run: ({ args, caller }) => `${args.tool} is yours for ${args.days} days, ${caller.name}.`,
  });
  const layer = createCommandLayer({ commands: [borrow], prefixes: ['!'], log: quiet });
  const serving = await platform.serve({
    handle(input) {
      heardAt.set(input, performance.now());
      return layer.handle(input, platform);
    },
  });
  for (let n = 0; n < LINES; n++) {
    for (const person of people) {
      person.type(`!take drill ${1 + (n % 14)} for the shed`);
      await new Promise((resolve) => setTimeout(resolve, 1));
    }
  }
  await until(() => took.length === PEOPLE * LINES, 'all are answered', 60_000);
  await serving.close();
  await Promise.all(people.map((person) => person.leave()));
  await server.stop();
  took.sort((a, b) => a - b);
  return took[Math.floor(took.length * 0.99)] ?? Number.NaN;
}

export const onIrc: readonly Row[] = [
  {
    name: 'irc-p99',
    what: '1,000 commands of 20 people on a real IRC server, several hundred a second: in 99 of 100, the layer’s own part of the answer',
    goal: 8,
    unit: 'ms',
    measure: async () => one(await p99Ms()),
  },
];
