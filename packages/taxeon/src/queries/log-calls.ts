/** One line in the log for every call. */

import { visibleText } from '../base/text.js';
import type { EndedEvent } from '../contract/events.js';
import type { Log } from '../contract/log.js';
import type { Outcome } from '../contract/outcome.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { consoleLog, logWithout, safeLog } from '../observe/log.js';

/** What `logCalls` writes, and where. */
export interface CallLogOptions {
  /** The console by default; any structured logger that has `info`. */
  readonly log?: Log;
  /** Names of arguments whose values are not written. */
  readonly leaveOut?: readonly string[];
}

/**
 * Writes a line for every input that was for the bot: who, where, which command, what became of it, how long
 * it took. The same stands in the line's fields. Gives what ends that.
 *
 * @example
 * logCalls(layer, { log, leaveOut: ['note'] });
 */
export function logCalls(layer: Pick<CommandLayer, 'on'>, options: CallLogOptions = {}): () => void {
  const { log: given = consoleLog, leaveOut = [] } = options;
  const log = safeLog(leaveOut.length === 0 ? given : logWithout(given, { keys: leaveOut }));
  const write = (event: EndedEvent) => {
    const line = callLine(event);
    if (event.outcome.status === 'failed') log.warn(fieldsOf(event), line);
    else if (log.info === undefined) log.warn(fieldsOf(event), line);
    else log.info(fieldsOf(event), line);
  };
  return layer.on('ended', write);
}

/** `Ines in #counter: fine completed, 3 ms`. */
function callLine({ input: { caller, place }, command, alias, outcome, tookMs }: EndedEvent): string {
  const where =
    place.kind === 'guild' ? `in ${visibleText(place.channel.name)}` : place.kind === 'direct' ? 'directly' : '';
  const what = command === undefined ? '' : ` ${alias === undefined ? command : `${command} (as ${alias})`}`;
  return `${`${visibleText(caller.name) || visibleText(caller.id)} ${where}`.trim()}:${what} ${becameOf(outcome)}, ${Math.round(tookMs)} ms`;
}

function becameOf(outcome: EndedEvent['outcome']): string {
  const { status, delivery } = outcome;
  const code = 'code' in outcome ? ` (${outcome.code})` : '';
  const lost = delivery?.delivered === false ? `, reply lost (${delivery.code})` : '';
  return `${status}${code}${lost}`;
}

function fieldsOf({ input, platform, command, alias, outcome, tookMs }: EndedEvent): Readonly<Record<string, unknown>> {
  const { caller, place, surface, id } = input;
  return {
    ...(id === undefined ? {} : { input: id }),
    platform,
    surface,
    caller: caller.id,
    ...(place.kind === 'guild' ? { guild: place.guild.id } : {}),
    ...(place.kind === 'console' ? {} : { channel: place.channel.id }),
    command,
    ...(alias === undefined ? {} : { alias }),
    status: outcome.status,
    ...codeFields(outcome),
    ...(outcome.args === undefined ? {} : { args: visibleArgs(outcome.args) }),
    tookMs,
  };
}

/** What was typed may hold anything, at any depth. People, roles, channels and things with a name are told by their ids. */
function visibleArgs(args: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const shown: Record<string, unknown> = {};
  for (const name in args) shown[name] = visibleValue(args[name], DEEPEST);
  return shown;
}

const DEEPEST = 4;

function visibleValue(value: unknown, depth: number): unknown {
  if (typeof value === 'string') return visibleText(value);
  if (typeof value !== 'object' || value === null || depth === 0) return value;
  if (Array.isArray(value)) return value.map((one) => visibleValue(one, depth - 1));
  if (value instanceof Date || value instanceof URL) return value;
  const { id, name } = value as Readonly<Record<string, unknown>>;
  if (typeof name === 'string')
    return visibleText(typeof id === 'string' || typeof id === 'number' ? String(id) : name);
  return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, visibleValue(one, depth - 1)]));
}

function codeFields(outcome: Exclude<Outcome, { status: 'ignored' }>): Readonly<Record<string, unknown>> {
  if (!('code' in outcome)) return {};
  const { code, parameters } = outcome;
  return 'reference' in parameters ? { code, reference: parameters.reference } : { code };
}
