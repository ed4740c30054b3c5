/** The state of an input behind the gates. */
import type { CompiledSettings } from '../access/rules.js';
import type { Input } from '../contract/input.js';
import type { Platform } from '../contract/platform.js';
import { conversationOn } from '../delivery/conversation.js';
import { Recorder } from '../observe/recorder.js';
import { Timings } from '../observe/timings.js';
import type { Continued } from './hearing.js';
import type { Course } from './stage.js';
import type { Heard } from './state.js';

/**
 * Hot path: bench/rows/calls.
 *
 * @param settings of the guild, as whoever let the input in has read them
 */
export function heardOn(
  course: Course,
  input: Input,
  platform: Platform | undefined,
  nameAt: number,
  settings: CompiledSettings,
  continued?: Continued,
): Heard {
  const { services, asking, looks, traces, order } = course;
  const { place, caller, surface } = input;
  const { locale, timeZone = services.timeZone } = settings.settings;
  const { clock, catalogue, rights, events } = services;
  const language = services.languageOf(input.locale, locale);
  return {
    at: 'heard',
    services,
    input,
    platform,
    nameAt,
    looks,
    asking,
    continued,
    catalogue,
    caller,
    platformName: platform?.name ?? '',
    guild: place.kind === 'guild' ? place.guild : undefined,
    place,
    surface,
    now: clock.now(),
    rights,
    settings,
    conversation: conversationOn(services.delivery, input, platform, language, timeZone),
    recorder: traces ? new Recorder(clock, order) : undefined,
    timings: events.timesEndings && !looks ? new Timings(clock) : undefined,
    responder: undefined,
    taken: undefined,
    handler: undefined,
    endWatch: undefined,
    isOpen: false,
    isOver: false,
  };
}
