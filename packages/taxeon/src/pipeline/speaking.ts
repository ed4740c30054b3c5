/** What a handler's call can do besides answering: tell, post, mention, take the input away. */
import type { Said, Sayable } from '../commands/call.js';
import type { Person } from '../contract/actors.js';
import type { Channel } from '../contract/places.js';
import { PlatformError } from '../contract/platform.js';
import { again, codeOf, takeTurn } from '../delivery/deliver.js';
import { replyOf } from '../delivery/responder.js';
import { plainText } from '../replies/notice.js';
import type { Run } from './run-object.js';

/** Without a platform there is nobody to say anything to. */
export function replyNow(run: Run, sayable: Sayable): Promise<Said> {
  const { responder } = run;
  if (responder !== undefined) return responder.reply(sayable);
  const rejected = Promise.reject(new PlatformError('platform.gone', 'The input came without a platform'));
  rejected.catch(() => undefined);
  return rejected;
}

export async function tellPerson(run: Run, person: Person, sayable: Sayable): Promise<'delivered' | 'unreachable'> {
  const { platform, services, responder } = run;
  try {
    const reply = { ...replyOf(run, sayable), visibleTo: 'caller' as const };
    if (person.id === run.input.caller.id && responder?.wasTold(plainText(reply.notice)) === true) return 'delivered';
    if (platform?.tell === undefined) return 'unreachable';
    try {
      await platform.tell(person, reply);
    } catch (error) {
      await again(services, platform, error, () => platform.tell?.(person, reply));
    }
    return 'delivered';
  } catch (error) {
    services.log.warn({ code: codeOf(error), command: run.command, person: person.id, error }, 'Somebody was not told');
    return 'unreachable';
  }
}

export function postIn(run: Run, channel: Channel, sayable: Sayable): Promise<void> {
  const posting = (async () => {
    const { platform, services } = run;
    if (platform?.post === undefined)
      throw new PlatformError('platform.failed', 'The platform has no posts of its own');
    const reply = replyOf(run, sayable);
    await takeTurn(run, platform, channel.id);
    try {
      await platform.post(channel, reply);
    } catch (error) {
      await again(services, platform, error, () => platform.post?.(channel, reply));
    }
  })();
  posting.catch(() => undefined);
  return posting;
}

export async function removeInput(run: Run): Promise<boolean> {
  const { platform, services } = run;
  if (platform?.removeInput === undefined || run.surface !== 'text') return false;
  try {
    await platform.removeInput(run.input, run.attribution);
    return true;
  } catch (error) {
    services.log.warn({ code: codeOf(error), command: run.command, error }, 'An input was not removed');
    return false;
  }
}

export function mention(run: Run, person: Person): string {
  run.mentioned ??= new Set();
  run.mentioned.add(person.id);
  return run.directory?.mention?.(person) ?? person.name;
}

const LONGEST_ATTRIBUTION = 100;

/** `induct, for Ines (ines)`. */
export function attributionOf({ command, input: { caller } }: Run): string {
  return `${command}, for ${caller.name} (${caller.id})`.replace(/\s+/g, ' ').slice(0, LONGEST_ATTRIBUTION);
}
