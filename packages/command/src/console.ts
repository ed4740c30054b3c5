/** `taxeon console`: a conversation in the terminal with one's own bot, as anybody of its people. */

import { writeFileSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { type Exchange, readSlashLine, runFor, runUntil, type StandIn, virtualClock } from '@taxeon/testing';
import { expectationOf, keptLog, type SpokenLine, speakerOf } from '@taxeon/testing/tryouts';
import colors from 'picocolors';
import { durationInWords, parseDuration, systemClock } from 'taxeon';
import { type Input, isPlatformError } from 'taxeon/platform';
import { complete, explain } from 'taxeon/queries';
import { stringify } from 'yaml';
import { type ConsolePosition, type ConsoleWord, readWord, standingInWords, words } from './console-words.js';
import { errorMessage, UsageError } from './errors.js';
import { openBot } from './open.js';
import { print } from './print.js';
import { createConversationPrinter } from './print-conversation.js';
import { printExplanation } from './print-explanation.js';

export interface ConsoleCommandOptions {
  readonly as?: string;
  readonly in?: string;
  readonly surface: ConsolePosition['surface'];
  readonly clock: 'real' | 'virtual';
  readonly begins?: string;
  readonly config?: string;
}

/** Until the lines end; each is said, or is for the console where it begins with `--`. */
export async function converse(options: ConsoleCommandOptions): Promise<void> {
  const virtual = options.clock === 'virtual' ? virtualClock(beginningOf(options.begins)) : undefined;
  if (virtual === undefined && options.begins !== undefined)
    throw new UsageError('--begins goes with --clock virtual: a real clock begins now.');
  const clock = virtual ?? systemClock;
  const log = keptLog();
  const rehearsal = await openBot(options.config, clock, log);
  const { layer, platform, modules } = rehearsal;
  let standing = firstStanding(options, platform);
  const isTerminal = process.stdin.isTTY === true;
  const printer = createConversationPrinter(platform, { echoes: !isTerminal });
  const recording = new Recording(clock.now());
  let told = 0;
  let isHinted = false;
  /** What a line leads to is told with it. On a real clock that may take long, so it is told as it comes. */
  let isInLine = false;
  await modules?.open();
  const serving = await platform.serve(layer);
  const speaker = speakerOf(rehearsal);

  const lines = createInterface({
    input: process.stdin,
    output: isTerminal ? process.stdout : undefined,
    terminal: isTerminal,
    completer: (line: string, done: (error: null, found: [string[], string]) => void) =>
      void suggestions(line).then((found) => done(null, found)),
  });

  async function suggestions(line: string): Promise<[string[], string]> {
    if (line.startsWith('--')) {
      const names = Object.keys(words).map((name) => `--${name} `);
      return [names.filter((name) => name.startsWith(line)), line];
    }
    try {
      const { surface } = standing;
      const at = surface === 'slash' ? (Object.keys(readSlashLine(line).options).at(-1) ?? '') : line.length;
      const found = await complete(layer, lineInput(line, standing, platform), at, platform);
      const start = surface === 'slash' ? line.lastIndexOf('=') + 1 : (found[0]?.start ?? line.length);
      return [found.map(({ text }) => `${text} `), line.slice(start)];
    } catch {
      return [[], line];
    }
  }

  /** What the bot has said by itself since. */
  function tellPosts(): void {
    const posts = platform.posts.slice(told);
    told = platform.posts.length;
    if (posts.length > 0) printer.posts(posts);
  }

  async function say(line: string): Promise<void> {
    const before = log.lines.length;
    const input = lineInput(line, standing, platform);
    // Before it is said: what it uses up would be part of the answer.
    const explanation = standing.traces ? await explain(layer, input, platform) : undefined;
    const sent = speaker.say(input);
    const exchange = await (virtual === undefined ? sent : runUntil(virtual, sent));
    told = platform.posts.length;
    const spoken = spokenLine(line, standing, platform);
    printer.step({ kind: 'exchange', line: spoken, exchange, logged: log.lines.slice(before), differences: [] });
    recording.said(spoken, exchange);
    await hint(line, input, exchange);
    if (explanation !== undefined) printExplanation(explanation, line, input);
  }

  /** A person who leaves out the prefix reads it, once. */
  async function hint(line: string, input: Input, { outcome }: Exchange): Promise<void> {
    if (isHinted || outcome.status !== 'ignored' || outcome.because !== 'chat') return;
    const { meant } = await explain(layer, input, platform);
    if (meant === null) return;
    isHinted = true;
    const prefix = meant.slice(0, meant.length - line.trimStart().length).trim();
    print(colors.dim(`                  (chat here; commands begin with ${prefix})`));
  }

  async function obey({ name, value }: ConsoleWord): Promise<void> {
    switch (name) {
      case 'wait':
        await wait(value);
        return;
      case 'tryout':
        recording.write(value);
        print(colors.dim(`  ${recording.count} lines are written into ${value}`));
        return;
      case 'help':
        for (const [word, what] of Object.entries(words)) print(`  --${word.padEnd(10)} ${colors.dim(what)}`);
        return;
      case 'end':
        return;
      default:
        standing = changedFile(standing, name, value, platform);
        print(colors.dim(`  ${standingInWords(standing, platform, clock.now())}`));
    }
  }

  async function wait(value: string): Promise<void> {
    const ms = parseDuration(value);
    if (ms === undefined) throw new UsageError(`"${value}" is no duration; write one such as 9m.`);
    if (virtual === undefined) throw new UsageError('Only a virtual clock can be moved: begin with --clock virtual.');
    await runFor(virtual, ms);
    recording.waited(value);
    print(colors.dim(`  … ${durationInWords(ms)} later`));
    tellPosts();
  }

  const watch = setInterval(() => {
    if (virtual === undefined || !isInLine) tellPosts();
  }, 250);
  watch.unref();
  if (isTerminal) {
    print(`\n  ${standingInWords(standing, platform, clock.now())}`);
    print(colors.dim('  Type as they would. --help tells what else there is, --end ends it.\n'));
  }
  const prompt = () => {
    if (!isTerminal) return;
    lines.setPrompt(`${standing.surface === 'console' ? 'console' : standing.person}> `);
    lines.prompt();
  };
  prompt();
  for await (const line of lines) {
    isInLine = true;
    try {
      const word = line.startsWith('--') ? readWord(line) : undefined;
      if (word?.name === 'end') break;
      if (word !== undefined) await obey(word);
      else if (line.trim() !== '') await say(line);
    } catch (error) {
      if (!(error instanceof UsageError) && !isPlatformError(error) && !(error instanceof SyntaxError)) throw error;
      print(colors.yellow(`  ${errorMessage(error)}`));
    }
    isInLine = false;
    prompt();
  }
  lines.close();
  clearInterval(watch);
  speaker.close();
  await serving.close();
  await layer.close();
}

function beginningOf(begins: string | undefined): number {
  const at = begins === undefined ? Date.now() : Date.parse(begins);
  if (Number.isNaN(at)) throw new UsageError(`"${begins}" is no moment; write one such as 2026-05-09T13:00:00Z.`);
  return at;
}

function firstStanding({ as, in: place, surface }: ConsoleCommandOptions, platform: StandIn): ConsolePosition {
  const { people, guilds } = platform.directory;
  const person = [...people.values()].find(({ isBot }) => isBot !== true);
  const [guild] = guilds.values();
  if (person === undefined) throw new UsageError('The simulated platform has no people; give it some.');
  const first: ConsolePosition = { person: person.id, place: guild?.id ?? 'direct', surface, traces: false };
  const inPlace = place === undefined ? first : changedFile(first, 'in', place, platform);
  return as === undefined ? inPlace : changedFile(inPlace, 'as', as, platform);
}

/** @throws UsageError for a person or some place that there is not */
function changedFile(
  standing: ConsolePosition,
  name: 'as' | 'in' | 'surface' | 'trace' | 'who',
  value: string,
  platform: StandIn,
): ConsolePosition {
  const { people } = platform.directory;
  switch (name) {
    case 'who':
      return standing;
    case 'as': {
      const person = [...people.values()].find(
        (one) => one.id === value || one.name.toLowerCase() === value.toLowerCase(),
      );
      if (person === undefined)
        throw new UsageError(`There is no person "${value}"; there are ${[...people.keys()].join(', ')}.`);
      return { ...standing, person: person.id };
    }
    case 'in': {
      const next = { ...standing, place: value };
      lineInput('x', { ...next, surface: standing.surface === 'console' ? 'console' : 'text' }, platform);
      return next;
    }
    case 'surface':
      if (value !== 'text' && value !== 'slash' && value !== 'console')
        throw new UsageError(`There is no surface "${value}"; there are text, slash, console.`);
      return { ...standing, surface: value };
    case 'trace':
      if (value !== '' && value !== 'on' && value !== 'off') throw new UsageError('Write --trace on, or --trace off.');
      return { ...standing, traces: value !== 'off' };
  }
}

/** What fills in a form is written as its names and values: `tool=drill`. */
function answersIn(line: string, platform: StandIn): Readonly<Record<string, string>> | undefined {
  if (platform.forms.length === 0 || line.trimStart().startsWith('/')) return undefined;
  const { path, options } = readSlashLine(line);
  return path.length === 0 && Object.keys(options).length > 0 ? options : undefined;
}

/** As a tryout writes it. */
function spokenLine(line: string, { surface, person, place }: ConsolePosition, platform: StandIn): SpokenLine {
  const expect = { status: 'completed' } as const;
  if (surface === 'console') {
    return place === 'direct'
      ? { place: 'console', types: line, expect }
      : { place, surface: 'console', types: line, expect };
  }
  if (surface === 'text') return { person, place, types: line, expect };
  const fills = answersIn(line, platform);
  if (fills !== undefined) return { person, place, fills, expect };
  const { path, options } = readSlashLine(line);
  return { person, place, invokes: path.join(' '), options, expect };
}

function lineInput(line: string, { surface, person, place }: ConsolePosition, platform: StandIn): Input {
  if (surface === 'console') {
    return platform.typed({ surface, place: place === 'direct' ? 'console' : place, text: line });
  }
  if (surface === 'text') return platform.typed({ person, place, text: line });
  const answers = answersIn(line, platform);
  return answers === undefined
    ? platform.invoked({ person, place, ...readSlashLine(line) })
    : platform.filled({ person, place, answers });
}

// What was said in the console, as a tryout.
class Recording {
  private readonly lines: object[] = [];

  constructor(private readonly begins: number) {}

  get count(): number {
    return this.lines.length;
  }

  said({ expect: _, ...line }: SpokenLine, exchange: Exchange): void {
    this.lines.push({ ...line, expect: expectationOf(exchange) });
  }

  waited(wait: string): void {
    this.lines.push({ wait });
  }

  /** @throws UsageError where it cannot be written, or is there already */
  write(path: string): void {
    const tryout = { tryout: 'From the console', begins: new Date(this.begins).toISOString(), lines: this.lines };
    try {
      writeFileSync(path, stringify(tryout, { lineWidth: 0 }), { flag: 'wx' });
    } catch (error) {
      throw new UsageError(`${path} cannot be written: ${errorMessage(error)}`);
    }
  }
}
