/** Stage 2: whether the input is for the bot. In a guild that is not in memory, its settings are read first. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import { type Key, keyOf } from '../contract/key.js';
import type { Ignored } from '../contract/outcome.js';
import type { Guild } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import { type GuildSnapshot, undecided } from '../guilds/book.js';
import { isUnreadSettings } from '../guilds/errors.js';
import type { Recorder } from '../observe/recorder.js';
import { beginsCommand, type PrefixMatcher } from '../reading/prefix.js';
import { inputProblem } from './check-input.js';
import { claimed } from './claim.js';
import { heardOn } from './heard.js';
import type { Continued, Hearing } from './hearing.js';
import { intake } from './intake.js';
import type { Services } from './services.js';
import type { Course, Gate, StageInWords } from './stage.js';
import { type Heard, type Stopped, stoppedAt } from './state.js';
import { type RefusedStop, refused } from './stop.js';
import { stopInWords } from './wording.js';

export const match: Gate = {
  kind: 'gate',
  name: 'match',
  take,
  passed,
};

export const matchInWords: StageInWords = {
  does: 'finds a prefix or a mention; reads the guild’s settings where they are not in memory; leaves out repeated deliveries; hears answers',
  stopsWith: ['ignored', 'store.unavailable', 'layer.closing', 'command.changed', 'answer.none'],
};

type Let = MaybePromise<Heard | Stopped | Ignored['because']>;

/** Hot path: bench/rows/calls. */
function take(course: Course, input: Input, platform: Platform | undefined): Let {
  const { place } = input;
  if (place.kind !== 'guild') return matched(course, input, platform, undecided);
  const known = course.services.guilds.known(platform?.name ?? '', place.guild.id);
  return known === undefined
    ? inUnreadGuild(course, input, platform, place.guild)
    : matched(course, input, platform, known);
}

/** What is no command may be an answer. */
function matched(course: Course, input: Input, platform: Platform | undefined, snapshot: GuildSnapshot): Let {
  const { services, asking, looks } = course;
  const nameAt = nameBehind(services, input, platform, snapshot.prefixes ?? services.prefixes);
  if (nameAt < 0 && asking === undefined) return 'chat';
  const hearing = hear(services, input, platform, looks, nameAt);
  const heard = asking === undefined ? hearing : asking.hear(input, platform, looks, snapshot.compiled, hearing);
  return isThenable(heard)
    ? heard.then((one) => letIn(course, input, platform, snapshot, one))
    : letIn(course, input, platform, snapshot, heard);
}

function hear(
  services: Services,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
  nameAt: number,
): MaybePromise<Hearing> {
  if (nameAt < 0) return 'chat';
  if (input.isEdit === true) {
    if (services.edits?.takes(platform?.name ?? '', input, looks) !== true) return 'chat';
  } else if (input.id !== undefined && isRepeated(services, input, platform, looks)) return 'repeated';
  if (services.isClosing) return refused({ code: 'layer.closing', parameters: {} });
  const isShared = services.repeats === 'store' && input.id !== undefined && input.isEdit !== true;
  return isShared ? claimed(services, input, platform, looks, nameAt) : nameAt;
}

/** The state of what goes on, with what the guild has decided; or where and why it stops. */
function letIn(
  course: Course,
  input: Input,
  platform: Platform | undefined,
  snapshot: GuildSnapshot,
  hearing: Hearing,
  continued?: Continued,
): Heard | Stopped | Ignored['because'] {
  if (typeof hearing === 'string') return hearing;
  if (typeof hearing === 'object' && hearing.status === 'answering')
    return letIn(course, hearing.input, platform, snapshot, hearing.nameAt, hearing.continued);
  const { services, looks } = course;
  const problem = inputProblem(input, platform);
  if (problem !== undefined) {
    if (!looks) services.malformed(problem);
    return 'malformed';
  }
  const { events } = services;
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
  if (heard.recorder !== undefined) record(heard, heard.recorder, stop);
  return stop === undefined ? heard : stoppedAt(heard, stop);
}

function record(heard: Heard, recorder: Recorder, stop: RefusedStop | undefined): void {
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
  services: Services,
  { surface, text = '', place }: Input,
  platform: Platform | undefined,
  prefixes: PrefixMatcher,
): number {
  if (surface !== 'text' && surface !== 'console') return 0;
  const nameAt = prefixes.match(text);
  if (nameAt >= 0) return nameAt;
  if (surface === 'console') return text.trim() === '' ? -1 : 0;
  const { mentionIsPrefix, prefixInDirect } = services;
  const behindMention = mentionIsPrefix ? (platform?.directory.addressed?.(text, place) ?? -1) : -1;
  if (behindMention >= 0 || text.length <= prefixes.longestCall) {
    const called = whereCalled(services, text, behindMention, prefixes);
    if (called >= 0) return called;
  }
  return prefixInDirect === 'optional' && place.kind === 'direct' && beginsCommand(text, 0) ? 0 : -1;
}

/** Behind the bot's mention or name. Who calls it and says nothing more is told of help, if there is some. */
function whereCalled({ catalogue }: Services, text: string, behindMention: number, prefixes: PrefixMatcher): number {
  if (behindMention >= 0) {
    const behindBoth = prefixes.match(text, behindMention);
    if (behindBoth >= 0 || beginsCommand(text, behindMention)) return Math.max(behindBoth, behindMention);
  }
  const isAlone = behindMention === text.length || prefixes.isCalledAlone(text);
  return isAlone && catalogue.help !== undefined ? text.length : -1;
}

function isRepeated({ recent }: Services, input: Input, platform: Platform | undefined, looks: boolean): boolean {
  const name = platform?.name ?? '';
  return looks ? recent.knows(name, input) : recent.seen(name, input);
}

function inUnreadGuild(course: Course, input: Input, platform: Platform | undefined, guild: Guild): Let {
  const { services } = course;
  const { guilds, waiting } = services;
  const key = keyOf(platform?.name ?? '', guild.id);
  // Nothing is an answer there: whether it may be given is not known.
  const without = (hearing: Hearing) => letIn(course, input, platform, undecided, hearing);
  if (!waiting.hasRoom(key)) return without(input.surface === 'text' ? 'chat' : unavailable(services.reference()));
  const known = (snapshot: GuildSnapshot) => matched(course, input, platform, snapshot);
  const failed = (error: unknown) => without(unread(services, input, platform, key, error));
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
  services: Services,
  input: Input,
  platform: Platform | undefined,
  guildKey: Key,
  error: unknown,
): Hearing {
  const reference = isUnreadSettings(error) ? error.reference : services.reference();
  if (input.surface !== 'text') return unavailable(reference);
  const { text = '', place } = input;
  const isAddressed = services.mentionIsPrefix && (platform?.directory.addressed?.(text, place) ?? -1) >= 0;
  if (isAddressed) return unavailable(reference);
  const isForBot = services.prefixes.match(text) >= 0;
  return isForBot && services.unread.mayTell(guildKey) ? unavailable(reference) : 'chat';
}

function unavailable(reference: string): RefusedStop {
  return refused({ code: 'store.unavailable', parameters: { reference } });
}
