/** Stage 3: which command is meant, by name or alias, through its groups. */

import type { NameTable } from '../base/name-table.js';
import { echoText } from '../base/text.js';
import { andThen, type MaybePromise } from '../base/thenable.js';
import type { CompiledCommand, CompiledGroup, Entry } from '../catalogue/catalogue.js';
import type { Answer, Call } from '../commands/call.js';
import type { Input } from '../contract/input.js';
import { whoSees } from '../delivery/deliver.js';
import { Cursor } from '../reading/cursor.js';
import type { Current } from './basis.js';
import { answerStop, makeCall } from './call.js';
import type { DampedRefusal, Damping } from './damping.js';
import { addressedAt } from './match.js';
import { nearIn, showsTo } from './near.js';
import { prefixOf } from './overview.js';
import { whoWhere } from './recent.js';
import type { StageInWords, Step } from './stage.js';
import type { Heard, Resolved } from './state.js';
import { refused, type Stop } from './stop.js';

export interface ResolveNeeds {
  readonly current: Pick<Current, 'formerNames'>;
  readonly onUnknown: UnknownHook | undefined;
  readonly damping: Damping | undefined;
  readonly mentionIsPrefix: boolean;
}

/**
 * Called for a name that no command has: what it gives is said, and where it gives nothing the name is unknown.
 *
 * @param rest what stands behind the name, verbatim; empty for a slash command
 */
export type UnknownHook = (name: string, rest: string, call: Call) => MaybePromise<Answer>;

export const resolve: Step<Heard, Resolved, ResolveNeeds> = {
  kind: 'step',
  name: 'resolve',
  take: resolveCommand,
  passed({ typed, command: { name, overviewOf } }) {
    const meant = overviewOf === undefined ? name : `the group ${name} alone`;
    return typed.toLowerCase() === meant ? meant : `${typed} is ${meant}`;
  },
};

export const resolveInWords: StageInWords = {
  does: 'finds the command by name or alias, through its groups; asks `onUnknown` for what no command has',
  stopsWith: ['command.unknown', 'command.changed'],
};

/** Where a name led: to a command, to a group that was called alone, or nowhere. */
interface Led {
  readonly entry: Entry | undefined;
  /** The group in which the last word was not found. */
  readonly within: CompiledGroup | undefined;
  readonly typed: string;
  readonly lastWord: string;
  readonly cursor: Cursor | undefined;
}

/** Hot path: bench/rows/calls. */
function resolveCommand(heard: Heard, needs: ResolveNeeds): MaybePromise<Resolved | Stop> {
  const { input } = heard;
  if (!isTypedByText(input)) {
    const alone = input.path?.length === 1 && input.text === undefined ? input.path[0] : undefined;
    const named = alone === undefined ? undefined : heard.catalogue.names.get(alone);
    if (named?.kind === 'command') return found(heard, named, alone as string, undefined);
    return followName(heard, needs, byPath(heard));
  }
  const cursor = new Cursor(input.text ?? '', heard.nameAt);
  const word = nextWord(heard, cursor);
  const entry = entryOf(heard.catalogue.names, word);
  if (entry?.kind === 'command') return found(heard, entry, word, cursor);
  return followName(heard, needs, throughGroups(heard, word, entry, cursor));
}

function found(heard: Heard, command: CompiledCommand, typed: string, cursor: Cursor | undefined): Resolved {
  heard.conversation.command = command.name;
  heard.conversation.audience = whoSees(command.visibleTo, heard.conversation);
  return { at: 'resolved', heard, command, typed, cursor };
}

function followName(heard: Heard, needs: ResolveNeeds, led: Led): MaybePromise<Resolved | Stop> {
  const { entry, typed, cursor } = led;
  const { surface } = heard;
  if (entry !== undefined) return found(heard, entry.kind === 'group' ? entry.overview : entry, typed, cursor);
  if (surface === 'slash' && needs.current.formerNames.get(typed) === true) {
    return refused({ code: 'command.changed', parameters: { name: echoText(typed) } });
  }
  const { onUnknown } = needs;
  if (onUnknown === undefined || led.within !== undefined || typed === '') return unknownCommand(heard, needs, led);
  // It runs, as a handler does: a query is told that it would be asked.
  if (heard.looks) return { status: 'completed', answer: undefined };
  return andThen(onUnknown(typed, cursor?.rest() ?? '', makeCall(heard, '', noArgs)), (given) =>
    given === undefined ? unknownCommand(heard, needs, led) : answerStop(heard.conversation, given),
  );
}

const noArgs: Readonly<Record<string, unknown>> = Object.freeze({});

/** Whether the name stands in the text, and not in a slash command's path. */
export function isTypedByText({ surface }: Input): boolean {
  return surface === 'text' || surface === 'console';
}

/** From the first word on, whose entry is no command. */
function throughGroups(heard: Heard, first: string, entryOfFirst: Entry | undefined, cursor: Cursor): Led {
  let word = first;
  let typed = first;
  let entry = entryOfFirst;
  let within: CompiledGroup | undefined;
  while (entry?.kind === 'group') {
    within = entry;
    if (Number.isNaN(cursor.peek())) return { entry, within: undefined, typed, lastWord: word, cursor };
    word = nextWord(heard, cursor);
    typed = `${typed} ${word}`;
    entry = entryOf(entry.names, word);
  }
  return { entry, within, typed, lastWord: word, cursor };
}

/** By its name, with the punctuation of a sentence behind it or without. */
function entryOf(names: NameTable<Entry>, word: string): Entry | undefined {
  const entry = names.get(word);
  if (entry !== undefined || !punctuation.test(word)) return entry;
  return names.get(word.replace(punctuation, ''));
}

const punctuation = /(?<=.)[,.:;!?]{1,8}$/;

function nextWord({ recorder }: Heard, cursor: Cursor): string {
  if (!cursor.next()) return '';
  const { start, end } = cursor;
  const name = cursor.value();
  recorder?.tokens.push({ span: { start, end }, takenBy: 'command', name });
  return name;
}

function byPath({ input, catalogue, surface }: Heard): Led {
  const [first = '', ...rest] = input.path ?? [];
  const typed = [first, ...rest].join(' ');
  // A slash command may carry its line in place of options.
  const cursor = surface === 'program' || input.text === undefined ? undefined : new Cursor(input.text, 0);
  // A program names a command by its whole name.
  if (surface === 'program') {
    return { entry: catalogue.find(typed), within: undefined, typed, lastWord: first, cursor };
  }
  let entry = catalogue.names.get(first);
  let within: CompiledGroup | undefined;
  let lastWord = first;
  for (const word of rest) {
    if (entry?.kind !== 'group') return { entry: undefined, within, typed, lastWord, cursor };
    within = entry;
    lastWord = word;
    entry = entry.names.get(word);
  }
  return { entry, within: entry === undefined ? within : undefined, typed, lastWord, cursor };
}

const unknownName: DampedRefusal = {
  code: 'command.unknown',
  command: undefined,
  argument: undefined,
  counts: undefined,
};

/** Nobody hears what is looked up for a person who was told enough. */
function isAnswered(heard: Heard, { damping }: ResolveNeeds): boolean {
  return heard.surface !== 'text' || damping?.isSilent(whoWhere(heard), unknownName) !== true;
}

function unknownCommand(heard: Heard, needs: ResolveNeeds, { within, typed, lastWord }: Led): Stop {
  const name = echoText(typed.replace(punctuation, ''));
  const help = helpIn(heard, needs);
  const because = typed === '' && help !== undefined ? 'unnamed' : 'unknown';
  const near = isAnswered(heard, needs) && typed !== '' ? nearIn(heard, lastWord, within) : [];
  return refused({ code: 'command.unknown', parameters: { name, because, near, help } });
}

/** How help is written, where the bot was called by its name. */
function helpIn(heard: Heard, needs: ResolveNeeds): string | undefined {
  const { input, nameAt, surface, platform, place } = heard;
  const { help } = heard.catalogue;
  const { text = '' } = input;
  if (help === undefined || surface !== 'text') return undefined;
  const isMention = needs.mentionIsPrefix && addressedAt(platform, text, place) >= 0;
  if (!isMention && !/^\s*[\p{L}\p{N}][^\s,:?]*\s*[,:?]/u.test(text.slice(0, nameAt))) return undefined;
  if (!isAnswered(heard, needs) || !showsTo(heard)(help)) return undefined;
  const prefix = prefixOf(heard);
  return nameAt < text.length ? `${prefix}${help.name}` : `${prefix.replace(/\?$/, ':').trimEnd()} ${help.name}`;
}
