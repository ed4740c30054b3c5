/** Stage 3: which command is meant, by name or alias, through its groups. */
import { echo, foldName } from '../base/text.js';
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { CompiledGroup, Entry } from '../catalogue/compile.js';
import type { Answer } from '../commands/call.js';
import { Cursor } from '../reading/cursor.js';
import type { Run } from './run-object.js';
import type { Stop } from './stages.js';
import { nearIn } from './viewer.js';

/** Where a name led: to a command, to a group that was called alone, or nowhere. */
interface Led {
  readonly entry: Entry | undefined;
  /** The group in which the last word was not found. */
  readonly within: CompiledGroup | undefined;
  readonly lastWord: string;
}

/** Hot path: bench/dispatch. */
export function resolve(run: Run): MaybePromise<Stop | undefined> {
  if (!typedByText(run)) return settle(run, byPath(run));
  const word = nextWord(run, cursorOf(run));
  run.typed = word;
  const entry = run.catalogue.entry(word);
  if (entry?.kind !== 'command') return settle(run, throughGroups(run, word, entry));
  run.found = entry;
  return undefined;
}

function settle(run: Run, led: Led): MaybePromise<Stop | undefined> {
  const { entry } = led;
  if (entry !== undefined) {
    run.found = entry.kind === 'group' ? entry.overview : entry;
    return undefined;
  }
  if (run.surface === 'slash' && run.services.wasThere(run.typed)) {
    return { status: 'refused', by: 'layer', code: 'command.changed', parameters: { name: echo(run.typed) } };
  }
  const { onUnknown } = run.services;
  if (onUnknown === undefined || run.purpose === 'explain' || led.within !== undefined) return unknown(run, led);
  const served = onUnknown(run.typed, restOf(run), run);
  const settle = (answer: Answer) => (answer === undefined ? unknown(run, led) : run.services.stopOf(run, answer));
  return isThenable(served) ? served.then(settle) : settle(served);
}

/** Whether the name stands in the text, and not in a slash command's path. */
export function typedByText({ input }: Run): boolean {
  return input.surface === 'text' || input.surface === 'console';
}

export function cursorOf(run: Run): Cursor {
  run.cursor ??= new Cursor(run.input.text ?? '', run.nameAt);
  return run.cursor;
}

/** From the first word on, whose entry is no command. */
function throughGroups(run: Run, first: string, found: Entry | undefined): Led {
  const cursor = cursorOf(run);
  let word = first;
  let entry = found;
  let within: CompiledGroup | undefined;
  while (entry?.kind === 'group') {
    within = entry;
    if (Number.isNaN(cursor.peek())) return { entry, within: undefined, lastWord: word };
    word = nextWord(run, cursor);
    run.typed = `${run.typed} ${word}`;
    entry = within.byName.get(foldName(word));
  }
  return { entry, within, lastWord: word };
}

function nextWord(run: Run, cursor: Cursor): string {
  if (!cursor.next()) return '';
  const { start, end } = cursor;
  const name = cursor.value();
  run.recorder?.tokens.push({ span: { start, end }, takenBy: 'command', name });
  return name;
}

function byPath(run: Run): Led {
  const [first = '', ...rest] = run.input.path ?? [];
  run.typed = [first, ...rest].join(' ');
  // A program names a command by its whole name.
  let entry = run.surface === 'program' ? run.catalogue.find(run.typed) : run.catalogue.entry(first);
  if (run.surface === 'program') return { entry, within: undefined, lastWord: first };
  let within: CompiledGroup | undefined;
  let lastWord = first;
  for (const word of rest) {
    if (entry?.kind !== 'group') return { entry: undefined, within, lastWord };
    within = entry;
    lastWord = word;
    entry = within.byName.get(foldName(word));
  }
  return { entry, within: entry === undefined ? within : undefined, lastWord };
}

function unknown(run: Run, { within, lastWord }: Led): MaybePromise<Stop> {
  const stop = (near: readonly string[]): Stop => ({
    status: 'refused',
    by: 'layer',
    code: 'command.unknown',
    parameters: { name: echo(run.typed), near },
  });
  const near = nearIn(run, lastWord, within);
  return isThenable(near) ? near.then(stop) : stop(near);
}

/** What stands behind the name that nobody knows. */
function restOf(run: Run): string {
  return typedByText(run) ? cursorOf(run).rest() : '';
}
