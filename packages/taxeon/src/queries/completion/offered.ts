/** What arguments offer where a person is typing, in a line or as an option. */
import { foldName } from '../../base/text.js';
import type { Catalogue, CompiledCommand } from '../../catalogue/catalogue.js';
import type { CompletionFrom, Offered } from '../../commands/arg.js';
import type { ReadingContext } from '../../commands/kind.js';
import type { Problem } from '../../contract/outcome.js';
import type { Reading } from '../../reading/reading.js';
import type { Slot } from '../../reading/slots.js';
import { ranked } from './rank.js';

/** Something that could stand where a person is typing. */
export interface Suggestion {
  readonly kind: 'command' | 'group' | 'flag' | 'value';
  /** What to put in. */
  readonly text: string;
  /** What to show. */
  readonly label: string;
  readonly description: string | undefined;
  /** What it takes the place of in the text, half-open; all of a slash option's value. */
  readonly start: number;
  readonly end: number;
}

export interface CompletionView {
  readonly catalogue: Catalogue;
  readonly context: ReadingContext;
  readonly isShown: (command: CompiledCommand) => boolean;
  readonly most: number;
  readonly matching?: 'beginning' | 'anywhere';
  /** Whether nothing is said against what an argument names: the bot, or the caller themselves. */
  mayName(command: CompiledCommand, slot: Slot, named: unknown): Promise<boolean>;
  /** Asks a function of the developer's: gives nothing where it fails or takes too long. */
  own(from: CompletionFrom, typed: string, args: Readonly<Record<string, unknown>>): Promise<unknown>;
}

/** All that is suggested is read before it is shown; a completion that offers more that does not read is not listened to for ever. */
export const MOST_READ = 200;

export function suggestion(
  { value, label = value, description }: Offered,
  text: string,
  span: { start: number; end: number },
): Suggestion {
  return { kind: 'value', text, label, description, start: span.start, end: span.end };
}

/** From the argument's own function, or from its kind; a list offers what its values are of, but for those it has. */
export async function offeredFor(
  view: CompletionView,
  slot: Slot,
  typed: string,
  args: Readonly<Record<string, unknown>>,
  given: ReadonlySet<string> = new Set(),
): Promise<readonly Offered[]> {
  const suggest = slot.kind.item?.kind.suggest ?? slot.kind.suggest;
  const offered =
    slot.complete === undefined ? await suggest?.(typed, view.context) : await view.own(slot.complete, typed, args);
  return ranked(offered ?? [], typed, view.matching).filter(({ value }) => !given.has(foldName(value)));
}

/** Of an argument that is mapped, who was named. */
export function namedIn({ members, values }: Reading, { name, index }: Slot): unknown {
  return members?.[name] ?? values[index];
}

/** A list may be too short so far. */
export function isForMore({ code, parameters }: Problem): boolean {
  return code === 'argument.invalid' && parameters.measure === 'count' && parameters.misfit === 'below';
}
