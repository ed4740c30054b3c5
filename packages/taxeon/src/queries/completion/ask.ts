/** `complete`: asks for suggestions, and lets nothing of the developer's throw, hang or come late. */

import { aimedWrong, lookUpBot } from '../../access/check.js';
import { foundOrMade } from '../../base/bounded-map.js';
import { checkFields, oneOf } from '../../base/fields.js';
import { patiently } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import type { CompletionContext } from '../../commands/arg.js';
import type { Input } from '../../contract/input.js';
import type { Platform } from '../../contract/platform.js';
import type { CommandLayer } from '../../layer/command-layer.js';
import { type Inside, insideOf, lookFrom } from '../../layer/inside.js';
import type { Current } from '../../pipeline/basis.js';
import { isNotForSelf } from '../../pipeline/examples.js';
import { intake } from '../../pipeline/intake.js';
import { nameBehind } from '../../pipeline/match.js';
import { showsTo } from '../../pipeline/near.js';
import { readingContextOf } from '../../pipeline/read.js';
import { whoWhere } from '../../pipeline/recent.js';
import type { Heard } from '../../pipeline/state.js';
import type { Slot } from '../../reading/slots.js';
import { completeText } from './complete.js';
import type { CompletionView, Suggestion } from './offered.js';
import { completeOption } from './option.js';

/** How what is typed is looked for. */
export interface CompleteOptions {
  /** Only what begins with it, or what holds it anywhere, beginnings first; `'anywhere'` by default. */
  readonly matching?: 'beginning' | 'anywhere';
}

/** Nobody waits longer for suggestions while typing. */
const PATIENCE_MS = 2500;
const MOST = 20;

/** The latest question of each person in each place, by layer. */
const latest = new WeakMap<Current, Map<string, AbortController>>();

/**
 * What could stand where a person is typing, best first; nothing that they may not run. A later call for the same
 * person in the same place makes an earlier one give nothing.
 *
 * @param at where the cursor is in the text, in UTF-16 code units; for a slash command the option's name
 *
 * @example
 * const suggestions = await complete(layer, input, text.length, platform);
 */
export async function complete(
  layer: CommandLayer,
  input: Input,
  at: number | string,
  platform?: Platform,
  options: CompleteOptions = {},
): Promise<readonly Suggestion[]> {
  checkFields(options, { matching: oneOf('beginning', 'anywhere') }, (field, problem) => {
    throw new TypeError(`complete, ${field || 'options'}: ${problem}`);
  });
  const inside = insideOf(layer);
  const { basis, current } = inside;
  if (intake.take(inside.course, input, platform, undefined) === 'bot') return [];
  const key = whoWhere({ ...input, platformName: platform?.name ?? '' });
  const asked = foundOrMade(latest, current, () => new Map());
  const controller = new AbortController();
  asked.get(key)?.abort();
  asked.set(key, controller);
  try {
    const asking = suggestionsFor(inside, input, at, platform, controller.signal, options);
    const found = await patiently(basis.clock, asking, 2 * PATIENCE_MS);
    return controller.signal.aborted ? [] : found;
  } catch (error) {
    basis.log.error({ error }, 'A completion failed');
    return [];
  } finally {
    if (asked.get(key) === controller) asked.delete(key);
  }
}

async function suggestionsFor(
  inside: Inside,
  input: Input,
  at: number | string,
  platform: Platform | undefined,
  signal: AbortSignal,
  { matching = 'anywhere' }: CompleteOptions,
): Promise<readonly Suggestion[]> {
  const nameAt = typeof at === 'number' ? await nameBefore(inside, input, at, platform) : 0;
  if (nameAt < 0) return [];
  const heard = await lookFrom(inside, input, platform, nameAt);
  const { catalogue } = heard;
  const view: CompletionView = {
    catalogue,
    context: readingContextOf(heard),
    isShown: showsTo(heard),
    matching,
    most: platform?.capabilities.mostSuggestions ?? MOST,
    mayName: (command, slot, named) => mayName(heard, command, slot, named),
    own: (from, typed, args) => ownSuggestions(heard, signal, async (context) => from(typed, { ...context, args })),
  };
  const { text = '', path = [], options = {} } = input;
  if (typeof at === 'number') return completeText(view, text, nameAt, at);
  const command = catalogue.find(path.join(' '));
  return command?.kind === 'command' ? completeOption(view, command, options, at) : [];
}

/** Where a command's name begins or would begin, before the cursor; -1 in ordinary chat. */
async function nameBefore(
  { guilds, addressing, current }: Inside,
  input: Input,
  cursor: number,
  platform: Platform | undefined,
): Promise<number> {
  const { text = '', surface, place } = input;
  const snapshot = place.kind === 'guild' ? await guilds.read(platform?.name ?? '', place.guild.id) : undefined;
  const begun = { ...input, text: `${text.slice(0, cursor)}x` };
  const nameAt = nameBehind(addressing, current, begun, platform, snapshot?.prefixes ?? addressing.prefixes);
  return nameAt < 0 && surface === 'console' ? 0 : nameAt;
}

async function mayName(
  { caller, guild, platform }: Heard,
  command: CompiledCommand,
  { name }: Slot,
  named: unknown,
): Promise<boolean> {
  if (!command.notTheBot.includes(name)) return true;
  if (aimedWrong([name], { [name]: named }, await lookUpBot(guild, platform?.directory)) !== undefined) return false;
  return !isNotForSelf(command, name) || ![named].flat().some((one) => Object(one).id === caller.id);
}

/** Its signal is aborted where a later question came, and where it takes too long. */
async function ownSuggestions(
  { input, platform, basis }: Heard,
  signal: AbortSignal,
  ask: (context: Omit<CompletionContext, 'args'>) => Promise<unknown>,
): Promise<unknown> {
  const controller = new AbortController();
  const abort = () => controller.abort();
  signal.addEventListener('abort', abort);
  try {
    const stopped = new Promise<undefined>((resolve) => signal.addEventListener('abort', () => resolve(undefined)));
    const { caller, place, surface } = input;
    const asked = ask({ caller, place, platform, surface, signal: controller.signal });
    return await patiently(basis.clock, Promise.race([asked, stopped]), PATIENCE_MS);
  } catch (error) {
    basis.log.error({ error, input: input.id }, 'A completion of the bot’s own failed');
    return [];
  } finally {
    signal.removeEventListener('abort', abort);
    abort();
  }
}
