/** Stage 2: whether the input is for the bot. In a guild that is not in memory, its settings are read first. */
import { isThenable, type MaybePromise } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import { type Key, keyOf } from '../contract/key.js';
import type { Guild } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import { isUnreadSettings } from '../guilds/errors.js';
import { beginsCommand, type PrefixMatcher } from '../reading/prefix.js';
import { claimed } from './claim.js';
import type { Services } from './services.js';
import type { Gate, Hearing, StageInWords } from './stage.js';
import { type RefusedStop, refused } from './stop.js';

export const match: Gate = {
  kind: 'gate',
  name: 'match',
  hear,
  passed: ({ surface, input, nameAt }) =>
    surface === 'text' ? `prefix ${input.text?.slice(0, nameAt)}` : `${surface} needs no prefix`,
};

export const matchInWords: StageInWords = {
  does: 'finds a prefix or a mention; reads the guild’s settings where they are not in memory; leaves out repeated deliveries; hears answers',
  stopsWith: ['ignored', 'store.unavailable', 'layer.closing', 'command.changed', 'answer.none'],
};

/** Hot path: bench/rows/calls. */
function hear(services: Services, input: Input, platform: Platform | undefined, looks: boolean): MaybePromise<Hearing> {
  const { place } = input;
  if (place.kind !== 'guild') return matched(services, input, platform, services.prefixes, looks);
  const known = services.guilds.known(platform?.name ?? '', place.guild.id);
  if (known !== undefined) return matched(services, input, platform, known.prefixes ?? services.prefixes, looks);
  return inUnreadGuild(services, input, platform, place.guild, looks);
}

function matched(
  services: Services,
  input: Input,
  platform: Platform | undefined,
  prefixes: PrefixMatcher,
  looks: boolean,
): MaybePromise<Hearing> {
  const nameAt = nameBehind(services, input, platform, prefixes);
  if (nameAt < 0) return 'chat';
  if (input.isEdit === true) {
    if (services.edits?.takes(platform?.name ?? '', input, looks) !== true) return 'chat';
  } else if (input.id !== undefined && isRepeated(services, input, platform, looks)) return 'repeated';
  if (services.isClosing) return refused({ code: 'layer.closing', parameters: {} });
  const isShared = services.repeats === 'store' && input.id !== undefined && input.isEdit !== true;
  return isShared ? claimed(services, input, platform, looks, nameAt) : nameAt;
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

function inUnreadGuild(
  services: Services,
  input: Input,
  platform: Platform | undefined,
  guild: Guild,
  looks: boolean,
): MaybePromise<Hearing> {
  const { guilds, waiting, prefixes } = services;
  const platformName = platform?.name ?? '';
  const key = keyOf(platformName, guild.id);
  if (!waiting.hasRoom(key)) return input.surface === 'text' ? 'chat' : unavailable(services.reference());
  try {
    const reading = guilds.read(platformName, guild.id);
    if (!isThenable(reading)) return matched(services, input, platform, reading.prefixes ?? prefixes, looks);
    waiting.begin(key);
    return reading.then(
      (snapshot) => {
        waiting.end(key);
        return matched(services, input, platform, snapshot.prefixes ?? prefixes, looks);
      },
      (error) => {
        waiting.end(key);
        return unread(services, input, platform, key, error);
      },
    );
  } catch (error) {
    return unread(services, input, platform, key, error);
  }
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
