/** A console in the terminal where the bot runs: lines in, replies out, also about a guild of another platform's. */
import { createInterface } from 'node:readline';
import { aFunction, aText, checkFields, type FieldForm, type Fields, messageOf } from '../base/fields.js';
import { withoutUnseen } from '../base/text.js';
import { type Clock, systemClock } from '../base/time.js';
import { emptyDirectory } from '../contract/empty-directory.js';
import type { Input } from '../contract/input.js';
import type { Reply } from '../contract/notice.js';
import type { InputHandler, Pace, Platform, Serving } from '../contract/platform.js';
import type { CommandLayer } from '../layer/command-layer.js';
import type { complete } from '../queries/completion/ask.js';
import { plainText } from '../replies/notice.js';
import { consoleActor } from './actor.js';
import { type Standing, standingFor } from './standing.js';

export interface ConsoleOptions {
  /** The platform whose guilds lines may be about. */
  readonly about?: Platform;
  /** The guild that lines are about, by its id, until `--in` says another; none by default. */
  readonly guild?: string;
  /** Give `complete`, and Tab completes. */
  readonly completion?: typeof complete;
  /** Where lines come from; the terminal by default. */
  readonly input?: NodeJS.ReadableStream;
  /** Where replies go; the terminal by default. */
  readonly output?: NodeJS.WritableStream;
  readonly clock?: Clock;
}

const has =
  (method: string, wanted: string): FieldForm =>
  (value) =>
    typeof Object(value)[method] === 'function' ? undefined : wanted;

const fields: Fields<ConsoleOptions> = {
  about: has('deliver', 'a platform, such as irc gives'),
  guild: aText,
  completion: aFunction,
  input: has('on', 'a stream to read from'),
  output: has('write', 'a stream to write to'),
  clock: has('now', 'a clock'),
};

const words = {
  in: 'what lines are about: --in GUILD, --in GUILD/CHANNEL, or --in nothing',
  help: 'these words',
  end: 'ends the console; the bot goes on',
} as const;

/**
 * A console for a bot that runs. What is typed is a command, without prefix; a line that begins with `--` is for the
 * console itself. A question of the bot's is answered by the next line. With `about` and `guild`, people, roles and
 * settings are those of that guild; what a command tells people or posts goes there, and its answer stands in the
 * terminal alone. It ends with the input, and the bot goes on.
 *
 * What may be done at the console is what the layer's `console` says.
 *
 * @throws TypeError with everything that is wrong with the options
 *
 * @example
 * const network = irc({ host: 'localhost', nick: 'Mallet', channels: ['#oddmere'] });
 * await network.serve(layer);
 * await consolePlatform({ about: network, guild: '#oddmere', completion: complete }).serve(layer);
 */
export function consolePlatform(options: ConsoleOptions = {}): Platform {
  const problems: string[] = [];
  checkFields(
    options,
    fields,
    (field, problem) => void problems.push(`${field === '' ? 'what it is given' : `\`${field}\``} ${problem}`),
  );
  const given: ConsoleOptions = Object(options);
  const { about, guild, completion, input = process.stdin, output = process.stdout, clock = systemClock } = given;
  if (guild !== undefined && about === undefined)
    problems.push('`guild` needs `about`, the platform that the guild is of');
  if (problems.length > 0) throw new TypeError(`consolePlatform: ${problems.join('\n     ')}`);
  const isTerminal = (input as Partial<NodeJS.ReadStream>).isTTY === true;
  let isOpen = false;
  /** Draws the prompt anew behind what was written over it. */
  let redraw: (() => void) | undefined;
  /** Told when something is answered. */
  let answered: (() => void) | undefined;

  function write(lines: readonly string[]): void {
    if (!isOpen) return;
    // What stands in the line was typed, and is drawn again.
    output.write(`${redraw === undefined ? '' : '\r\u001B[J'}${lines.map((line) => `  ${line}\n`).join('')}`);
    redraw?.();
  }

  function say({ notice }: Reply): void {
    const [first = '', ...more] = plainText(notice).split('\n').map(withoutUnseen);
    write([`${notice.tone === 'problem' ? '✗ ' : ''}${first}`, ...more]);
    answered?.();
  }

  const platform: Platform = {
    name: 'console',
    capabilities: { privateReplies: 'always', eventIds: false },
    directory: emptyDirectory,
    deliver: say,
    async serve(layer) {
      if (isOpen) throw new TypeError('The console is served already');
      isOpen = true;
      const lines = createInterface({
        input,
        output: isTerminal ? output : undefined,
        terminal: isTerminal,
        completer: (line: string, done: (error: null, found: [string[], string]) => void) =>
          void suggestions(layer, line).then((found) => done(null, found)),
      });
      const serving: Serving = {
        async close() {
          isOpen = false;
          redraw = undefined;
          lines.close();
        },
      };
      // A terminal that is gone takes the console with it, and not the bot.
      const gone = () => void serving.close();
      input.on('error', gone);
      output.on('error', gone);
      try {
        await layer.connected?.(platform, serving);
      } catch (error) {
        await serving.close();
        throw error;
      }
      void converse(layer, lines).then(gone, gone);
      return serving;
    },
  };
  const seen = about === undefined ? undefined : seenFromConsole(about, say);
  const standing = standingFor(about, guild, clock);

  async function suggestions(layer: InputHandler, line: string): Promise<[string[], string]> {
    if (line.startsWith('--')) {
      const names = Object.keys(words).map((name) => `--${name} `);
      return [names.filter((name) => name.startsWith(line)), line];
    }
    try {
      const { place } = await standing.look();
      // Code that gives `complete` gives a layer that it knows.
      const typed = inputOf(line, place);
      const found = await completion?.(layer as CommandLayer, typed, line.length, platformFor(place));
      return [(found ?? []).map(({ text }) => `${text} `), line.slice(found?.[0]?.start ?? line.length)];
    } catch {
      return [[], line];
    }
  }

  function inputOf(text: string, place: Input['place']): Input {
    return { surface: 'console', caller: consoleActor, place, text, at: clock.now() };
  }

  function platformFor(place: Input['place']): Platform {
    return place.kind === 'console' ? platform : (seen ?? platform);
  }

  async function converse(layer: InputHandler, lines: ReturnType<typeof createInterface>): Promise<void> {
    if (isTerminal) {
      redraw = () => {
        lines.setPrompt(`${standing.name}> `);
        lines.prompt(true);
      };
      // The terminal takes the keys itself, and the bot has its own way of leaving.
      lines.on('SIGINT', () => process.kill(process.pid, 'SIGINT'));
      redraw();
    }
    for await (const line of lines) {
      const [, word, value = ''] = /^--(\S*)\s*(.*)$/s.exec(line.trim()) ?? [];
      if (word === 'end') return;
      if (word !== undefined) await obey(word, value);
      else if (line.trim() !== '') await hand(layer, line);
      redraw?.();
    }
  }

  /** In the terminal nobody waits for a slow command; of lines that are piped in, each waits for the answer before it. */
  async function hand(layer: InputHandler, line: string): Promise<void> {
    const isAnswered = new Promise<void>((resolve) => {
      answered = resolve;
    });
    let there: Standing;
    try {
      there = await standing.look();
    } catch (error) {
      write([`✗ ${withoutUnseen(messageOf(error))}`]);
      return;
    }
    const over = layer.handle(inputOf(line, there.place), platformFor(there.place)).catch((error: unknown) => {
      write([`✗ ${withoutUnseen(messageOf(error))}`]);
    });
    if (!isTerminal) await Promise.race([over, isAnswered]);
  }

  async function obey(word: string, value: string): Promise<void> {
    try {
      if (word === 'in' && value !== '') write([`About ${(await standing.move(value)).name}.`]);
      else if (word === 'help') write(Object.entries(words).map(([name, what]) => `--${name.padEnd(6)} ${what}`));
      else if (word === 'in') write([`Say more behind --in: ${words.in}.`]);
      else write([`There is no --${withoutUnseen(word)}; there are --in, --help and --end.`]);
    } catch (error) {
      write([`✗ ${withoutUnseen(messageOf(error))}`]);
    }
  }

  return platform;
}

// A platform as it is seen from the console: its people and guilds, and answers in the terminal.
/** @param say writes a reply into the terminal */
function seenFromConsole(about: Platform, say: (reply: Reply) => void): Platform {
  // What is told or posted waits for its turn there, and what stands in the terminal for none.
  const pace: Pace = {
    turn: (turn) =>
      turn.channel === '' || turn.channel === consoleActor.id ? undefined : about.capabilities.pace?.turn(turn),
  };
  return {
    name: about.name,
    capabilities: { privateReplies: 'always', eventIds: false, pace },
    directory: about.directory,
    ...(about.permissions === undefined ? {} : { permissions: about.permissions }),
    ...(about.guilds === undefined ? {} : { guilds: () => about.guilds?.() ?? [] }),
    ...(about.tell === undefined ? {} : { tell: (person, reply) => about.tell?.(person, reply) }),
    ...(about.post === undefined ? {} : { post: (channel, reply) => about.post?.(channel, reply) }),
    deliver: say,
    serve: () => Promise.reject(new TypeError(`The console does not serve ${about.name}`)),
  };
}
