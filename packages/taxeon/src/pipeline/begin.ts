/** The state of an input behind the gates. */
import { type CompiledSettings, noSettings } from '../access/rules.js';
import type { Input } from '../contract/input.js';
import type { Guild } from '../contract/places.js';
import type { Platform } from '../contract/platform.js';
import { conversationOn } from '../delivery/conversation.js';
import { Recorder } from '../observe/recorder.js';
import { Timings } from '../observe/timings.js';
import type { Services } from './services.js';
import type { Pipeline } from './stages.js';
import type { Heard } from './state.js';

export interface Beginning {
  /** Only looks: nothing is recorded or taken. */
  readonly looks: boolean;
  readonly trace: boolean;
}

/**
 * Takes the guild's settings as they are in memory: the gates, or whoever looks, have read them. Hot path:
 * bench/rows/calls.
 */
export function begin(
  { order, gates, asking }: Pipeline,
  services: Services,
  input: Input,
  platform: Platform | undefined,
  nameAt: number,
  { looks, trace }: Beginning,
): Heard {
  const { place, caller, surface } = input;
  const guild = place.kind === 'guild' ? place.guild : undefined;
  const platformName = platform?.name ?? '';
  const settings = guild === undefined ? noSettings : settingsOf(services, platformName, guild);
  const { locale, timeZone = services.timeZone } = settings.settings;
  const { clock, catalogue, rights, events } = services;
  const language = services.languageOf(input.locale, locale);
  const heard: Heard = {
    at: 'heard',
    services,
    input,
    platform,
    nameAt,
    looks,
    asking,
    catalogue,
    caller,
    platformName,
    guild,
    place,
    surface,
    now: clock.now(),
    rights,
    settings,
    conversation: conversationOn(services.delivery, input, platform, language, timeZone),
    recorder: trace ? new Recorder(clock, order) : undefined,
    timings: events.timesEndings && !looks ? new Timings(clock) : undefined,
    responder: undefined,
    handler: undefined,
    isStopped: false,
    endWatch: undefined,
    isOver: false,
  };
  if (heard.recorder !== undefined) {
    for (const { name, passed } of gates) heard.recorder.passed(name, () => passed(heard));
  }
  return heard;
}

/**
 * Nothing is in memory only of a guild at which a gate has stopped the input: fewer lines wait than guilds are kept, so
 * that what was read for one is still there.
 */
function settingsOf({ guilds }: Services, platformName: string, guild: Guild): CompiledSettings {
  return guilds.known(platformName, guild.id)?.compiled ?? noSettings;
}
