/** Lines that are for the console, and not for the bot: they begin with `--`. */
import type { StandIn } from '@taxeon/testing';
import { UsageError } from './errors.js';

/** Who one is, where, and how the bot is reached. */
export interface ConsolePosition {
  /** By id. */
  readonly person: string;
  /** `oddmere/counter`, `oddmere` or `direct`. */
  readonly place: string;
  readonly surface: 'text' | 'slash' | 'console';
  /** Whether the stages that a line passes are shown. */
  readonly traces: boolean;
}

export const words = {
  as: 'who types: --as Wren',
  in: 'where: --in oddmere/workshop, or --in direct',
  surface: 'how the bot is reached: --surface slash, text or console',
  wait: 'moves a virtual clock on: --wait 9m',
  trace: 'the stages of each line: --trace on, or off',
  tryout: 'writes what was said as a tryout: --tryout FILE',
  who: 'who one is, and where',
  help: 'these words',
  end: 'ends it',
} as const;

export interface ConsoleWord {
  readonly name: keyof typeof words;
  readonly value: string;
}

/** Those that stand alone. */
const alone: readonly string[] = ['who', 'help', 'end', 'trace'];

/** @throws UsageError for a word that there is not, or that needs something behind it */
export function readWord(line: string): ConsoleWord {
  const [, name = '', value = ''] = /^--(\S*)\s*(.*)$/s.exec(line.trim()) ?? [];
  if (!Object.hasOwn(words, name)) {
    throw new UsageError(
      `There is no --${name}; there are ${Object.keys(words)
        .map((one) => `--${one}`)
        .join(', ')}.`,
    );
  }
  if (value === '' && !alone.includes(name))
    throw new UsageError(`Say more behind --${name}: ${words[name as ConsoleWord['name']]}.`);
  return { name: name as ConsoleWord['name'], value };
}

/** `Wren in oddmere/counter, by text, at 13:00`. */
export function standingInWords(
  { person, place, surface, traces }: ConsolePosition,
  { directory }: StandIn,
  now: number,
): string {
  const name = surface === 'console' ? 'The console' : (directory.people.get(person)?.name ?? person);
  const time = new Date(now).toISOString().slice(0, 16).replace('T', ' ');
  return `${name} in ${place}, by ${surface}, at ${time} UTC${traces ? ', with the stages of each line' : ''}`;
}
