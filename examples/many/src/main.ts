/**
 * Mallet in four processes behind one simulated platform, on one Redis server: what a person sees of it, and what is
 * counted while 200 people borrow at once, lines are handed over twice, and one process is killed on the way.
 */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { styleText } from 'node:util';
import type { DemoData } from '@oddmere/tool-library';
import { redisStore } from '@taxeon/redis';
import { createClient } from 'redis';
import { parse } from 'yaml';
import { borrowers, type Line, PEGS, pegOf, type Told } from './lines.js';
import { type BotProcess, startProcess } from './platform.js';
import { startServer } from './redis-server.js';

const PROCESSES = 4;
const IN_FLIGHT = 48;
/** Every so many lines are handed to a second process as well. */
const TWICE_EVERY = 10;

const file = createRequire(import.meta.url).resolve('@oddmere/tool-library/data/oddmere.yaml');
const data = parse(readFileSync(file, 'utf8')) as DemoData;
const names = new Map(data.world.people.map(({ id, name }) => [id, name]));

const server = await startServer().catch((error: Error) => {
  console.error(error.message);
  process.exit(1);
});
const processes = await Promise.all(Array.from({ length: PROCESSES }, (_, n) => startProcess(n + 1, server.url, data)));
let lines = 0;

/** The process of that number. */
const at = (number: number): BotProcess => processes[number - 1] as BotProcess;
const lineOf = (person: string, text: string, place: string): Line => ({ id: `line-${++lines}`, person, place, text });

function print(text = ''): void {
  console.log(text);
}

/** One line as a person sees it, with the process that it was handed to. */
async function says(number: number, person: string, text: string, place = 'oddmere/counter'): Promise<void> {
  const told = await at(number).hand(lineOf(person, text, place));
  print(`  ${styleText('dim', `process ${number}`)}  ${(names.get(person) ?? person).padEnd(8)} ${text}`);
  showReply(told);
}

function showReply({ status, says }: Told): void {
  const colour = status === 'completed' || status === 'waiting' ? 'green' : 'yellow';
  for (const [index, line] of says.join('\n').split('\n').entries()) {
    print(`             ${styleText('cyan', index === 0 ? 'Mallet  ' : '        ')} ${styleText(colour, line)}`);
  }
}

function heading(text: string): void {
  print(`\n${styleText('bold', text)}\n`);
}

heading('Four processes of one bot, each asked in turn');
await says(1, 'wren', '!borrow drill 2 days');
await says(2, 'wren', '!take ladder');
await says(3, 'wren', '!borrow spade');
print(`             ${styleText('dim', 'The third was refused by a process that had lent Wren nothing.')}`);
await says(4, 'odalys', '!prefix ?');
await new Promise((resolve) => setTimeout(resolve, 200));
await says(1, 'tobias', '?borrow chainsaw');
print(`             ${styleText('dim', 'What one process was told, all others know.')}`);

heading('The same line, handed to two processes');
const twice = lineOf('ines', '?announce The library closes at six.', 'oddmere/counter');
const both = await Promise.all([at(1).hand(twice), at(2).hand(twice)]);
print(`  ${styleText('dim', 'both     ')}  Ines     ${twice.text}`);
for (const told of both) if (told.status !== 'ignored') showReply(told);
const left = both.filter(({ status }) => status === 'ignored').length;
print(`             ${styleText('dim', `It was said once: ${left} of the two has left it to the other.`)}`);

heading(`${borrowers.length} people borrow ${PEGS} pegs each, of which two are allowed in ten minutes`);
const counted = await borrowAll();
print(`  ${counted.handed} lines handed over, ${counted.twice} of them to two processes`);
print(
  `  ${counted.completed} lent, ${counted.refused} refused by the cooldown, ${counted.repeated} left to another process`,
);
print(`  process 2 was killed with ${counted.inFlight} lines in its hands, and replaced`);
print(
  `  ${counted.again} lines that it did not answer went to another: ${counted.again - counted.died} ran there, ${counted.died} had begun and ended with it`,
);
print(`  people who were lent more than two: ${counted.tooMany}; uses that were counted and are lost: ${counted.lost}`);

heading('After the kill');
await says(2, 'wren', '?borrow spade');
print(`             ${styleText('dim', 'The new process 2 has never heard of Wren, and refuses all the same.')}`);

await Promise.all(processes.map((one) => one.close()));
await server.stop();
const { handed, completed, refused, died, tooMany, lost } = counted;
const isRight = completed + refused + died === handed && tooMany === 0 && lost === 0;
print(`\n  ${isRight ? styleText('green', 'Everything adds up.') : styleText('red', 'It does not add up.')}`);
process.exitCode = isRight ? 0 : 1;

/** All at once, as far as the platform goes; the second process is killed in the middle of it. */
async function borrowAll() {
  const all = Array.from({ length: PEGS }, (_, peg) =>
    borrowers.map(({ id }, n) => lineOf(id, `!borrow "${pegOf(n, peg)}"`, 'workbench/staging')),
  ).flat();
  const lentTo = new Map<string, number>();
  const sum = { handed: all.length, twice: 0, completed: 0, refused: 0, repeated: 0, inFlight: 0, again: 0, died: 0 };
  const count = (line: Line, { status, code }: Told): 'done' | 'repeated' => {
    if (status === 'ignored') {
      sum.repeated += 1;
      return 'repeated';
    }
    if (status === 'completed') {
      sum.completed += 1;
      lentTo.set(line.person, (lentTo.get(line.person) ?? 0) + 1);
    } else if (code === 'cooldown.active') sum.refused += 1;
    else throw new Error(`${line.text}: ${status} ${code}`);
    return 'done';
  };
  let next = 0;
  const hand = async (number: number, line: Line): Promise<'done' | 'repeated' | 'lost'> => {
    try {
      return count(line, await at(number).hand(line));
    } catch (error) {
      if (error instanceof Error && error.message.includes('gone')) return 'lost';
      throw error;
    }
  };
  const worker = async () => {
    for (let index = next++; index < all.length; index = next++) {
      const line = all[index] as Line;
      const number = (index % PROCESSES) + 1;
      const isTwice = index % TWICE_EVERY === 0;
      if (isTwice) sum.twice += 1;
      const others = isTwice ? [(number % PROCESSES) + 1] : [];
      const ends = await Promise.all([number, ...others].map((one) => hand(one, line)));
      if (ends.includes('done') || !ends.includes('lost')) continue;
      // A platform hands what was not acknowledged to another.
      sum.again += 1;
      if ((await hand((number % PROCESSES) + 1, line)) !== 'done') sum.died += 1;
    }
  };
  const kill = async () => {
    while (next < all.length / 2) await new Promise((resolve) => setTimeout(resolve, 1));
    const victim = at(2);
    sum.inFlight = victim.unanswered();
    await victim.kill();
    processes[1] = await startProcess(2, server.url, data);
  };
  await Promise.all([kill(), ...Array.from({ length: IN_FLIGHT }, worker)]);
  const tooMany = [...lentTo.values()].filter((count) => count > 2).length;
  return { ...sum, tooMany, lost: await lostOf(lentTo) };
}

/** Uses that people were granted and the server does not know. */
async function lostOf(lentTo: ReadonlyMap<string, number>): Promise<number> {
  const store = redisStore(createClient({ url: server.url }), { bot: 'mallet' });
  const used = new Map<string, number>();
  for await (const page of store.live()) for (const { key, uses } of page) used.set(key, uses);
  await store.close();
  return [...lentTo].reduce((lost, [person, lent]) => lost + Math.max(0, lent - (used.get(person) ?? 0)), 0);
}
