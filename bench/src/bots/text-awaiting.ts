/** The same bot with every look-up awaited, as it is written where a platform's client may answer with a promise. */
import type { Input, Platform } from 'taxeon/platform';
import {
  type ByHand,
  Cooldown,
  guildOf,
  idIn,
  isAmount,
  isWholeNumber,
  lacksPermission,
  owes,
  PREFIX,
  type Result,
  refusalFor,
  say,
  usage,
  wordsOf,
} from './by-hand.js';

type Handler = (message: Input, words: string[], platform: Platform) => Promise<Result>;

export function awaitingTextBot(now: () => number): ByHand<Promise<string | undefined>> {
  const cooldown = new Cooldown(3, now);
  const commands = new Map<string, Handler>([
    ['fine', fine],
    ['charge', fine],
  ]);

  async function fine(message: Input, words: string[], platform: Platform): Promise<Result> {
    const { caller } = message;
    if (caller.kind !== 'member') return { code: 'place.wrong', says: 'That works only in a guild.' };
    if (!caller.permissions.has('fine')) return lacksPermission;
    const [whoText, penceText, ...rest] = words;
    if (whoText === undefined || penceText === undefined) return { code: 'argument.missing', says: usage };
    const guild = guildOf(message);
    const who = await platform.directory.member(guild, idIn(whoText));
    const pence = Number.parseInt(penceText, 10);
    if (who === undefined || !isWholeNumber(penceText) || !isAmount(pence)) {
      return { code: 'argument.invalid', says: usage };
    }
    const refusal = refusalFor(caller, who, await platform.directory.self(guild)) ?? cooldown.take(caller.id);
    if (refusal !== undefined) return refusal;
    return { code: 'completed', says: owes(who, pence, rest.length === 0 ? undefined : rest.join(' ')) };
  }

  return {
    async onMessage(message, platform) {
      const text = message.text ?? '';
      if (!text.startsWith(PREFIX)) return undefined;
      const words = wordsOf(text);
      const handler = commands.get((words[0] ?? '').toLowerCase());
      if (handler === undefined) return 'command.unknown';
      const { code, says } = await handler(message, words.slice(1), platform);
      await say(platform, message, says);
      return code;
    },
  };
}
