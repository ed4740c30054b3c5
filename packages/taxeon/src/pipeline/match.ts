/** Stage 2: whether the input is for the bot. In a guild that is not in memory, its settings are read first. */

import { atOnce, isThenable, type MaybePromise } from '../base/thenable.js';
import type { Catalogue } from '../catalogue/catalogue.js';
import type { Input } from '../contract/input.js';
import { type Key, keyOf } from '../contract/key.js';
import type { Ignored } from '../contract/outcome.js';
import type { Guild, Place } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import { type GuildSettingsBook, type GuildSnapshot, undecided } from '../guilds/book.js';
import { isUnreadSettings } from '../guilds/errors.js';
import type { Recorder } from '../observe/recorder.js';
import type { OnceAMinute } from '../observe/sparse-log.js';
import { beginsCommand, type PrefixMatcher } from '../reading/prefix.js';
import type { Basis, Current } from './basis.js';
import { type ClaimNeeds, claimed } from './claim.js';
import type { Edits } from './edits.js';
import { inputProblem, intake } from './intake.js';
import type { Continued, MatchResult } from './match-result.js';
import type { RecentIds } from './recent.js';
import type { Course, Gate, StageInWords } from './stage.js';
import { type Heard, heardOn, type Stopped, stoppedAt } from './state.js';
import { type RefusedStop, refused } from './stop.js';
import type { WaitingLines } from './waiting.js';
import { stopInWords } from './wording.js';

/** How the bot is addressed. */
export interface Addressing {
  readonly prefixes: PrefixMatcher;
  readonly mentionIsPrefix: boolean;
  readonly prefixInDirect: 'required' | 'optional';
}

export interface MatchNeeds {
  readonly addressing: Addressing;
  readonly guilds: Pick<GuildSettingsBook, 'known' | 'read'>;
  /** Lines that wait for their guild's settings, and who was told that these do not read. */
  readonly waiting: WaitingLines;
  readonly mayTellUnread: OnceAMinute;
  readonly recent: RecentIds;
  /** Where deliveries are recognised in the store that come a second time, besides in memory. */
  readonly claim: ClaimNeeds | undefined;
  /** Where messages that did not read may be edited. */
  readonly edits: Edits | undefined;
}

export const match: Gate<MatchNeeds> = { kind: 'gate', name: 'match', take: matchInput, passed };

export const matchInWords: StageInWords = {
  does: 'finds a prefix or a mention; reads the guild’s settings where they are not in memory; leaves out repeated deliveries; hears answers',
  stopsWith: ['ignored', 'store.unavailable', 'layer.closing', 'command.changed', 'answer.none'],
};

type Let = MaybePromise<Heard | Stopped | Ignored['because']>;

/** Hot path: bench/rows/calls. */
function matchInput(course: Course, input: Input, platform: Platform | undefined, needs: MatchNeeds): Let {
  const { place } = input;
  if (place.kind !== 'guild') return matched(course, needs, input, platform, undecided);
  const known = needs.guilds.known(platform?.name ?? '', place.guild.id);
  return known === undefined
    ? inUnreadGuild(course, needs, input, platform, place.guild)
    : matched(course, needs, input, platform, known);
}

/** What is no command may be an answer. */
function matched(
  course: Course,
  needs: MatchNeeds,
  input: Input,
  platform: Platform | undefined,
  snapshot: GuildSnapshot,
): Let {
  const { asking, current } = course;
  const { addressing } = needs;
  const nameAt = nameBehind(addressing, current, input, platform, snapshot.prefixes ?? addressing.prefixes);
  if (nameAt < 0 && asking === undefined) return 'chat';
  const hearing = hearInput(course, needs, input, platform, nameAt);
  const heard = asking === undefined ? hearing : asking.hear(input, platform, course.looks, snapshot.compiled, hearing);
  return isThenable(heard)
    ? heard.then((one) => letIn(course, needs, input, platform, snapshot, one))
    : letIn(course, needs, input, platform, snapshot, heard);
}

function hearInput(
  { basis, current, looks }: Course,
  { edits, recent, claim }: MatchNeeds,
  input: Input,
  platform: Platform | undefined,
  nameAt: number,
): MaybePromise<MatchResult> {
  if (nameAt < 0) return 'chat';
  if (input.isEdit === true) {
    if (edits?.takes(platform?.name ?? '', input, looks) !== true) return 'chat';
  } else if (input.id !== undefined && recent.meets(platform?.name ?? '', input, looks)) return 'repeated';
  if (current.isClosing) return refused({ code: 'layer.closing', parameters: {} });
  if (claim === undefined || input.id === undefined || input.isEdit === true) return nameAt;
  return claimed(basis, claim, input, platform, looks, nameAt);
}

/** The state of what goes on, with what the guild has decided; or where and why it stops. */
function letIn(
  course: Course,
  needs: MatchNeeds,
  input: Input,
  platform: Platform | undefined,
  snapshot: GuildSnapshot,
  hearing: MatchResult,
  continued?: Continued,
): Heard | Stopped | Ignored['because'] {
  if (typeof hearing === 'string') return hearing;
  if (typeof hearing === 'object' && hearing.status === 'answering')
    return letIn(course, needs, hearing.input, platform, snapshot, hearing.nameAt, hearing.continued);
  const { basis, looks } = course;
  const problem = inputProblem(input, platform);
  if (problem !== undefined) {
    if (!looks) course.malformed.tell({ problem });
    return 'malformed';
  }
  const { events } = basis;
  if (!looks && events.hearing.received) events.tell('received', { input, platform: platform?.name });
  const stop = typeof hearing === 'number' ? undefined : hearing;
  const heard = heardOn(
    course,
    input,
    platform,
    typeof hearing === 'number' ? hearing : 0,
    snapshot.compiled,
    continued,
  );
  if (input.isEdit === true) heard.saidBefore = needs.edits?.saidBefore(input);
  if (heard.recorder !== undefined) recordMatch(heard, heard.recorder, stop);
  return stop === undefined ? heard : stoppedAt(heard, stop);
}

function recordMatch(heard: Heard, recorder: Recorder, stop: RefusedStop | undefined): void {
  recorder.passed('intake', () => intake.passed(heard));
  if (stop === undefined) recorder.passed('match', () => passed(heard));
  else recorder.stopped('match', () => stopInWords(heard, stop));
}

function passed({ surface, input, nameAt, continued }: Heard): string {
  if (continued !== undefined) return `answers “${continued.question.asked}”`;
  return surface === 'text' ? `prefix ${input.text?.slice(0, nameAt)}` : `${surface} needs no prefix`;
}

/** Where the command's name begins, the end of the text where the bot is called and none is said; -1 in ordinary chat. */
export function nameBehind(
  { mentionIsPrefix, prefixInDirect }: Addressing,
  { catalogue }: Pick<Current, 'catalogue'>,
  { surface, text = '', place }: Input,
  platform: Platform | undefined,
  prefixes: PrefixMatcher,
): number {
  if (surface !== 'text' && surface !== 'console') return 0;
  const nameAt = prefixes.match(text);
  if (nameAt >= 0) return nameAt;
  if (surface === 'console') return text.trim() === '' ? -1 : 0;
  const behindMention = mentionIsPrefix ? addressedAt(platform, text, place) : -1;
  if (behindMention >= 0 || text.length <= prefixes.longestCall) {
    const called = whereCalled(catalogue, text, behindMention, prefixes);
    if (called >= 0) return called;
  }
  return prefixInDirect === 'optional' && place.kind === 'direct' && beginsCommand(text, 0) ? 0 : -1;
}

/** Where a text that speaks to the bot goes on; -1 where it does not. Hot path: bench, rows/calls. */
export function addressedAt(platform: Platform | undefined, text: string, place: Place): number {
  const at: unknown = platform?.directory.addressed?.(text, place);
  return typeof atOnce(at) === 'number' ? (at as number) : -1;
}

/** Behind the bot's mention or name. Who calls it and says nothing more is told of help, if there is some. */
function whereCalled(catalogue: Catalogue, text: string, behindMention: number, prefixes: PrefixMatcher): number {
  if (behindMention >= 0) {
    const behindBoth = prefixes.match(text, behindMention);
    if (behindBoth >= 0 || beginsCommand(text, behindMention)) return Math.max(behindBoth, behindMention);
  }
  const isAlone = behindMention === text.length || prefixes.isCalledAlone(text);
  return isAlone && catalogue.help !== undefined ? text.length : -1;
}

function inUnreadGuild(
  course: Course,
  needs: MatchNeeds,
  input: Input,
  platform: Platform | undefined,
  guild: Guild,
): Let {
  const { basis } = course;
  const { guilds, waiting } = needs;
  const key = keyOf(platform?.name ?? '', guild.id);
  // Nothing is an answer there: whether it may be given is not known.
  const without = (hearing: MatchResult) => letIn(course, needs, input, platform, undecided, hearing);
  if (!waiting.hasRoom(key)) return without(input.surface === 'text' ? 'chat' : settingsUnavailable(basis.reference()));
  const known = (snapshot: GuildSnapshot) => matched(course, needs, input, platform, snapshot);
  const failed = (error: unknown) => without(unread(basis, needs, input, platform, key, error));
  let reading: MaybePromise<GuildSnapshot>;
  try {
    reading = guilds.read(platform?.name ?? '', guild.id);
  } catch (error) {
    return failed(error);
  }
  if (!isThenable(reading)) return known(reading);
  waiting.begin(key);
  return Promise.resolve(reading)
    .finally(() => waiting.end(key))
    .then(known, failed);
}

/** Nobody knows what holds in the guild. A prefix may be another bot's there, so lines with one are told so once in a while. */
function unread(
  basis: Basis,
  needs: MatchNeeds,
  input: Input,
  platform: Platform | undefined,
  guildKey: Key,
  error: unknown,
): MatchResult {
  const reference = isUnreadSettings(error) ? error.reference : basis.reference();
  if (input.surface !== 'text') return settingsUnavailable(reference);
  const { text = '', place } = input;
  const { mentionIsPrefix, prefixes } = needs.addressing;
  const isAddressed = mentionIsPrefix && addressedAt(platform, text, place) >= 0;
  if (isAddressed) return settingsUnavailable(reference);
  const isForBot = prefixes.match(text) >= 0;
  return isForBot && needs.mayTellUnread(guildKey) ? settingsUnavailable(reference) : 'chat';
}

function settingsUnavailable(reference: string): RefusedStop {
  return refused({ code: 'store.unavailable', parameters: { reference } });
}
