/** A platform as it is seen from the console: its people and guilds, and answers in the terminal. */
import type { Reply } from '../../contract/notice.js';
import type { Pace, Platform } from '../../contract/platform.js';
import { consoleActor } from './actor.js';

/** @param say writes a reply into the terminal */
export function seenFromConsole(about: Platform, say: (reply: Reply) => void): Platform {
  // What is told or posted waits for its turn there, and what stands in the terminal for none.
  const pace: Pace = {
    turn: (turn) =>
      turn.channel === '' || turn.channel === consoleActor.id ? undefined : about.capabilities.pace?.turn(turn),
  };
  return {
    name: about.name,
    capabilities: { privateReplies: 'always', eventIds: false, pace },
    directory: about.directory,
    ...(about.permissions === undefined ? {} : { permissions: about.permissions }),
    ...(about.guilds === undefined ? {} : { guilds: () => about.guilds?.() ?? [] }),
    ...(about.tell === undefined ? {} : { tell: (person, reply) => about.tell?.(person, reply) }),
    ...(about.post === undefined ? {} : { post: (channel, reply) => about.post?.(channel, reply) }),
    deliver: say,
    serve: () => Promise.reject(new TypeError(`The console does not serve ${about.name}`)),
  };
}
