/** The same command on slash: options come by name, and nothing has to be cut out of a line. */
import type { Member } from 'taxeon';
import type { Input, Platform } from 'taxeon/platform';
import {
  type ByHand,
  Cooldown,
  guildOf,
  idIn,
  isAmount,
  lacksPermission,
  owes,
  type Result,
  refusalFor,
  say,
  usage,
} from './by-hand.js';

type Handler = (message: Input, platform: Platform) => Result;

export function leanSlashBot(now: () => number): ByHand<PromiseLike<string> | string> {
  const cooldown = new Cooldown(3, now);
  const commands = new Map<string, Handler>([['fine', fine]]);

  function fine(message: Input, platform: Platform): Result {
    const { caller, options = {} } = message;
    if (caller.kind !== 'member') return { code: 'place.wrong', says: 'That works only in a guild.' };
    if (!caller.permissions.has('fine')) return lacksPermission;
    const { who: id, pence, note } = options;
    if (id === undefined || pence === undefined) return { code: 'argument.missing', says: usage };
    const guild = guildOf(message);
    const who = typeof id === 'string' ? (platform.directory.member(guild, idIn(id)) as Member | undefined) : undefined;
    if (who === undefined || typeof pence !== 'number' || !isAmount(pence)) {
      return { code: 'argument.invalid', says: usage };
    }
    const bot = platform.directory.self(guild) as Member | undefined;
    const refusal = refusalFor(caller, who, bot) ?? cooldown.take(caller.id);
    if (refusal !== undefined) return refusal;
    return { code: 'completed', says: owes(who, pence, typeof note === 'string' ? note : undefined) };
  }

  return {
    onMessage(message, platform) {
      const handler = commands.get(message.path?.[0] ?? '');
      if (handler === undefined) return 'command.unknown';
      const { code, says } = handler(message, platform);
      return say(platform, message, says).then(() => code);
    },
  };
}
