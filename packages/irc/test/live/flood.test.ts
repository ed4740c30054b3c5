import { arg, command } from 'taxeon';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { isMissing, until } from '../../../../test/support/programs.js';
import { type Ircv3Server, startIrcv3Server } from '../support/inspircd.js';
import { ircStage, listeningLog } from '../support/stage.js';

const number = command({
  name: 'number',
  description: 'Say which it was',
  args: { of: arg.text(), n: arg.integer() },
  run: ({ args }) => `number ${args.of} ${args.n}`,
});
const shelf = command({
  name: 'shelf',
  description: 'A long answer',
  run: () => Array.from({ length: 30 }, (_, n) => `on shelf ${n} there is a tool`).join('\n'),
});

describe.skipIf(isMissing('inspircd'))('where the server puts out who says too much', () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server({ flood: 'strict' });
  });
  afterAll(() => server.stop());
  const { person, bot } = ircStage(() => server);

  test('the bot that takes no care is put out, takes more care, and comes back', async () => {
    const ines = await person('Ines', '#careless');
    const { log, warned, has } = listeningLog();
    await bot(['#careless'], [number], { log, pace: '100 in 1s' });
    for (let n = 0; n < 40; n++) ines.type(`!number careless ${n}`);
    await until(() => has('The IRC connection was lost; reconnecting'), 'the server puts it out');
    expect(warned.find(({ message }) => message === 'The bot says less at once on IRC')?.fields).toMatchObject({
      windowMs: 2000,
    });
    await until(() => has('The IRC connection is back'), 'the bot is back');
  });
});

// Each with a server of its own, side by side: they wait for a minute.
describe.skipIf(isMissing('inspircd'))('where much is pasted', { concurrent: true }, () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server({ flood: 'strict' });
  });
  afterAll(() => server.stop());
  const { person, bot } = ircStage(() => server);

  test('a paste of 20 lines and a long answer are said in their turn, and the bot stays', {
    timeout: 120_000,
  }, async () => {
    const ines = await person('Ines', '#paste');
    const tobias = await person('Tobias', '#paste');
    const { log, warned } = listeningLog();
    await bot(['#paste'], [number, shelf], { log, pace: '5 in 5500ms' });
    for (let n = 0; n < 20; n++) ines.type(`!number paste ${n}`);
    tobias.type('!shelf');
    await until(
      () => ines.all().filter((line) => line.startsWith('Ines: number paste ')).length === 20,
      'all of the paste is answered',
      90_000,
    );
    // In the channel its beginning, the rest to Tobias alone, and that it is cut.
    expect(tobias.all().filter((line) => line.includes('on shelf'))).toHaveLength(19);
    expect(tobias.all()).toContain('… The rest is left out.');
    expect(ines.all().filter((line) => line.includes('on shelf'))).toHaveLength(4);
    expect(ines.all()).toContain('· … The rest goes to you alone.');
    expect(warned).toEqual([]);
  });
});

describe.skipIf(isMissing('inspircd'))('where many ask all the time', { concurrent: true }, () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server({ flood: 'strict' });
  });
  afterAll(() => server.stop());
  const { person, bot } = ircStage(() => server);
  const usual = '5 in 10s';
  const warning = /That is more than I can answer/;

  test('8 people at one command a second for a minute are answered or told, in turn, and the bot stays', {
    timeout: 150_000,
  }, async () => {
    const names = ['Ines', 'Tobias', 'Wren', 'Odalys', 'Pim', 'Kiosk', 'Steward', 'Borrower'];
    const people = await Promise.all(names.map((name) => person(name, '#flood')));
    const { log, warned } = listeningLog();
    await bot(['#flood'], [number], { log, pace: usual });
    for (let second = 0; second < 60; second++) {
      for (const one of people) one.type(`!number ${one.nick} ${second}`);
      await new Promise((resolve) => setTimeout(resolve, 1000));
    }
    const answers = people.map((one) => one.all().filter((line) => line.startsWith(`${one.nick}: number `)));
    for (const [index, own] of answers.entries()) {
      // About 35 lines in a minute, a fair part for each; in the order in which they were asked.
      expect(own.length).toBeGreaterThanOrEqual(3);
      const numbers = own.map((line) => Number(line.split(' ').at(-1)));
      expect(numbers).toEqual([...numbers].sort((one, other) => one - other));
      expect(people[index]?.all().filter((line) => warning.test(line))).toHaveLength(1);
    }
    const counts = answers.map((own) => own.length);
    expect(Math.max(...counts) - Math.min(...counts)).toBeLessThanOrEqual(2);
    expect(warned).toEqual([]);
  });
});

describe.skipIf(isMissing('inspircd'))('where much is asked at once', () => {
  let server: Ircv3Server;
  beforeAll(async () => {
    server = await startIrcv3Server();
  });
  afterAll(() => server.stop());
  const { person, bot } = ircStage(() => server);

  test('1,000 commands from 20 people: none is lost, none runs or is answered twice', {
    timeout: 120_000,
  }, async () => {
    const people = await Promise.all(Array.from({ length: 20 }, (_, n) => person(`Person${n}`, '#crowd')));
    const runs: string[] = [];
    const count = command({
      name: 'number',
      description: 'Say which it was',
      args: { n: arg.integer() },
      run({ args, caller }) {
        runs.push(`${caller.name} ${args.n}`);
        return `number ${args.n}`;
      },
    });
    await bot(['#crowd'], [count], { pace: '100000 in 1s' });
    for (let n = 0; n < 50; n++) for (const one of people) one.type(`!number ${n}`);
    const mine = (one: (typeof people)[number]) => one.all().filter((line) => line.startsWith(`${one.nick}: number `));
    await until(() => people.every((one) => mine(one).length >= 50), 'all are answered', 60_000);
    const expected = Array.from({ length: 50 }, (_, n) => n);
    for (const one of people) {
      const order = (all: readonly string[]) => all.map((line) => Number(line.split(' ').at(-1))).sort((a, b) => a - b);
      expect(order(mine(one))).toEqual(expected);
      expect(order(runs.filter((run) => run.startsWith(`${one.nick} `)))).toEqual(expected);
    }
  });
});
