/** Help as a person reads it where they are. */
import { botPermissionsIn } from '../../access/compile.js';
import { memberCan } from '../../access/context.js';
import { type MaybePromise, patiently, promised } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import { type Call, callOrigin } from '../../commands/call.js';
import type { Input } from '../../contract/input.js';
import type { Notice } from '../../contract/notice.js';
import { guildOf, type Platform } from '../../contract/platform.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { insideOf, lookFrom } from '../../layer/inside.js';
import { listingFor, prefixOf } from '../../pipeline/overview.js';
import { readingContextOf } from '../../pipeline/read.js';
import type { Heard } from '../../pipeline/state.js';
import { plainText } from '../../replies/notice.js';
import { type Help, helpOn } from './data.js';
import { helpNotice } from './words.js';

/**
 * What the caller may run here, or all about one command or group: a page of it, ready to be said.
 *
 * @example
 * command({ name: 'help', description: 'What I can do', run: (call) => helpFor(layer, call) });
 */
export async function helpFor(layer: CommandLayer, call: Call, name?: string, page = 1): Promise<Notice> {
  const { input, platform, nameAt } = call[callOrigin];
  const heard = await lookFrom(insideOf(layer), input, platform, nameAt);
  return helpNotice(await dataFor(heard, name), {
    words: heard.conversation.language.words,
    asked: name ?? '',
    page,
    fits: (notice) => plainText(notice).length <= A_PAGE || pageLength(heard, notice) <= longestPage(heard),
    // As the command that was called is written, be it renamed.
    written: (next) => [`${prefixOf(heard)}${call.command}`, '--page', String(next), name ?? ''].join(' ').trim(),
  });
}

/**
 * The same as data, for an input that need not be a call.
 *
 * @example
 * const help = await helpData(layer, input, 'borrow', platform);
 * if (help.kind === 'command') console.log(help.usage);
 */
export async function helpData(layer: CommandLayer, input: Input, name?: string, platform?: Platform): Promise<Help> {
  return dataFor(await lookFrom(insideOf(layer), input, platform), name);
}

function dataFor(heard: Heard, name: string | undefined): MaybePromise<Help> {
  const lackedBy = (command: CompiledCommand) => lackedHere(heard, command);
  const { surface, input, catalogue } = heard;
  const typesLines = surface !== 'slash' || input.text !== undefined;
  return helpOn({ ...listingFor(heard), catalogue, typesLines, context: readingContextOf(heard), lackedBy }, name);
}

/** Nothing where there is no guild, or the platform does not tell. */
async function lackedHere(heard: Heard, { requires }: CompiledCommand): Promise<readonly string[]> {
  const { platform, input, basis, settings, rights } = heard;
  const guild = guildOf(input.place);
  const needed = botPermissionsIn(requires);
  if (platform === undefined || guild === undefined || needed.length === 0) return [];
  try {
    const asked = promised(() => platform.directory.self(guild));
    const bot = await patiently(basis.clock, asked, basis.patienceMs);
    if (bot === undefined) return [];
    return needed.filter((permission) => !memberCan(bot, permission, { rights, settings }));
  } catch (error) {
    basis.log.warn({ platform: platform.name, guild: guild.id, error }, 'Help could not look at the bot');
    return [];
  }
}

/** As much is a page, be it said in several messages. */
const A_PAGE = 600;
/** Where a platform does not say how long a message may be, a screenful. */
const A_SCREENFUL = 1500;

function longestPage({ platform }: Heard): number {
  return platform?.capabilities.longestReply ?? A_SCREENFUL;
}

function pageLength({ platform }: Heard, notice: Notice): number {
  return platform?.measure?.(notice) ?? plainText(notice).length;
}
