/** Examples of how a command is written: they name what exists where they are read, and read without a problem. */
import { foundOrMade } from '../base/bounded-map.js';
import { andThen, isThenable, type MaybePromise, promised } from '../base/thenable.js';
import type { CompiledCommand } from '../catalogue/catalogue.js';
import type { ReadingContext } from '../commands/kind.js';
import { leavesOf } from '../commands/requirements.js';
import { asToken } from '../reading/as-token.js';
import { byShape } from '../reading/by-shape.js';
import { Cursor } from '../reading/cursor.js';
import { readText } from '../reading/read-text.js';
import { Reading } from '../reading/reading.js';
import type { Slots } from '../reading/slots.js';

/** The declared ones, or one that is made of the arguments there must be; without prefix and name. */
export function examplesFor(command: CompiledCommand, context: ReadingContext): MaybePromise<readonly string[]> {
  const { slots } = command;
  if (command.examples === undefined) {
    if (isOfThemselves(command)) return [];
    return andThen(askedFor(slots, context), () => {
      const made = exampleLine(slots, context);
      if (made === undefined) return [];
      return andThen(doesRead(slots, made, context), (reads: boolean) => (reads ? [made] : []));
    });
  }
  const reads = command.examples.map((line) => doesRead(slots, line, context));
  const kept = (all: readonly boolean[]) => (command.examples ?? []).filter((_, index) => all[index]);
  return reads.some(isThenable) ? Promise.all(reads).then(kept) : kept(reads as readonly boolean[]);
}

/** What examples are made of, where it has to be asked for; one that cannot be had makes none. */
function askedFor({ positional }: Slots, context: ReadingContext): MaybePromise<unknown> {
  const asked = positional.map(({ absent, kind }) => {
    const { prepare, traits } = kind.item?.kind ?? kind;
    return absent.as === 'problem' && traits?.isListed === true ? promised(() => prepare?.('', context)) : undefined;
  });
  return asked.some(isThenable) ? Promise.allSettled(asked) : undefined;
}

function exampleLine({ positional }: Slots, context: ReadingContext): string | undefined {
  const words: string[] = [];
  for (const slot of positional) {
    if (slot.absent.as !== 'problem') continue;
    const { example, kind } = slot;
    const text = typeof example === 'function' ? example(context) : example;
    if (text === undefined) return undefined;
    // What is declared is written as it is to be typed; of a kind, one word is.
    const isValue =
      typeof example === 'function' ? kind.tokens !== 'rest' : kind.tokens === 1 && example === kind.example;
    words.push(isValue ? asToken(text, slot, false) : text);
  }
  return words.length === 0 ? undefined : words.join(' ');
}

/** Whether it would name the caller where they may not name themselves. */
function isOfThemselves(command: CompiledCommand): boolean {
  return command.slots.positional.some(
    ({ name, absent, kind }) =>
      absent.as === 'problem' && kind.traits?.namesCaller === true && isNotForSelf(command, name),
  );
}

/** Whether people may not name themselves in an argument. */
export function isNotForSelf({ standing }: CompiledCommand, argument: string): boolean {
  const leaves = standing.flatMap(({ requirement }) => [...leavesOf(requirement)]);
  return leaves.some(({ traits, parameters }) => traits.notSelf === true && parameters.argument === argument);
}

/** Nobody waits for what cannot be looked up just now: such an example is left out. */
function doesRead(slots: Slots, line: string, context: ReadingContext): MaybePromise<boolean> {
  const reading = new Reading(known(slots), context, false);
  try {
    const pending = readText(new Cursor(line, 0), reading);
    const isRead = () => reading.problems === undefined;
    return isThenable(pending) ? pending.then(isRead, () => false) : isRead();
  } catch {
    return false;
  }
}

const shaped = new WeakMap<Slots, Slots>();

/** A kind of the developer's own is taken at its word: its look-ups are for what people typed. */
function known(slots: Slots): Slots {
  return foundOrMade(shaped, slots, () =>
    byShape(
      slots,
      ({ traits }) => traits?.looksUp !== undefined || traits?.isListed === true || traits?.boundsMove === true,
    ),
  );
}
