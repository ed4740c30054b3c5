/** What is said for how an input stopped, in the caller's language. */

import { echoText } from '../base/text.js';
import { toldWaitMs } from '../base/time.js';
import type { Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import type { Code, Coded, Manners, MessageOverrides } from '../contract/codes.js';
import type { Amount } from '../contract/expectation.js';
import type { Notice, Reply, Saying } from '../contract/notice.js';
import type { Problem } from '../contract/outcome.js';
import type { Span } from '../contract/span.js';
import type { Words } from '../contract/words.js';
import { replyOf } from '../delivery/conversation.js';
import { whoSees } from '../delivery/deliver.js';
import { asToken } from '../reading/as-token.js';
import type { Note } from '../reading/reading.js';
import type { Slot } from '../reading/slots.js';
import { mannerOf, manners } from '../replies/manners.js';
import { messageIn } from '../replies/messages.js';
import { sayInReply } from '../replies/phrases.js';
import { prefixOf } from './overview.js';
import { commandOf, heardOf, type State } from './state.js';
import type { Stop } from './stop.js';

/** What the bot says in its own words, and to whom, in place of the catalogue. */
export interface OwnWords {
  readonly messages: MessageOverrides;
  /** Who sees what is said for a code, and for how long. */
  readonly manners: Manners | undefined;
}

/** What the caller reads; `undefined` where nothing is said. */
export function replyTo(state: State, stop: Stop, own: OwnWords): Reply | undefined {
  switch (stop.status) {
    case 'completed':
      return answerReply(state, stop.answer);
    case 'refused':
      if (stop.by === 'handler') return problemReply(state, own, stop.code, stop.parameters.reason);
      if (isMeantForAnother(state, stop)) return undefined;
      return problemReply(
        state,
        own,
        stop.code,
        message(state, stop, own),
        stop.code === 'requirement.failed' && stop.parameters.argument !== undefined ? howToWrite(state) : undefined,
        stop.code === 'cooldown.active' ? toldWaitMs(stop.parameters.retryAfterMs) : undefined,
      );
    case 'waiting':
      return stop.reply;
    case 'failed':
      return problemReply(state, own, stop.code, message(state, stop, own));
    case 'invalid': {
      const { words } = heardOf(state).conversation.language;
      const { problems, unplaced } = firstOfAll(stop.problems, commandOf(state)?.slots.all ?? []);
      const told = problems.slice(0, MOST_TOLD).map((problem) => {
        const { quoted } = problem;
        return `${message(state, problemAsTyped(state, problem), own)}${quoted === undefined ? '' : ` ${sayInReply(words, 'reply.quoted', { written: echoText(quoted) })}`}`;
      });
      if (unplaced !== undefined) {
        const read = echoText((heardOf(state).input.text ?? '').slice(unplaced.start, unplaced.end));
        told[0] += ` ${sayInReply(words, 'reply.unplaced', { read })}`;
      }
      const isArguments = stop.code !== 'input.malformed';
      return problemReply(
        state,
        own,
        stop.code,
        [...new Set(told)].join('\n'),
        isArguments ? howToWrite(state, stop.example) : undefined,
      );
    }
  }
}

/**
 * The problems without those that follow from the first one: where a word of a line was no value, what stands behind it
 * went to arguments that nobody meant, or to none.
 */
function firstOfAll(
  problems: readonly Problem[],
  slots: readonly Slot[],
): { readonly problems: readonly Problem[]; readonly unplaced?: Span } {
  const isUnread = ({ code, parameters }: Problem) => code === 'argument.invalid' && parameters.misfit === 'shape';
  const first = problems.find((one) => isUnread(one) && one.span !== undefined);
  const from = first?.span?.end;
  if (first === undefined || from === undefined) return { problems };
  const behind = problems
    .filter((one) => isUnread(one) || isLeftOver(one))
    .filter(({ span }) => span && span.start >= from);
  const isUnmeant = ({ parameters }: Problem) =>
    slots.some(
      ({ name, absent }) => 'argument' in parameters && name === parameters.argument && absent.as !== 'problem',
    );
  if (!behind.some((one) => isLeftOver(one) || isUnmeant(one))) return { problems };
  const isTold = (one: Problem) => one !== first && !behind.includes(one) && one.code !== 'argument.missing';
  const places = behind.flatMap(({ span }) => span ?? []);
  const start = Math.min(...places.map((span) => span.start));
  const end = Math.max(...places.map((span) => span.end));
  return { problems: [first, ...problems.filter(isTold)], unplaced: { start, end } };
}

function isLeftOver({ code, parameters }: Problem): boolean {
  return code === 'argument.extra' && parameters.because === 'left-over';
}

/** What is recommended in place of what was typed in a line is written as it reads there, or left out. */
function problemAsTyped(state: State, problem: Problem): Problem {
  const { code, parameters, span } = problem;
  if (code !== 'argument.invalid' || span === undefined || parameters.near.length === 0) return problem;
  const slot = commandOf(state)?.slots.all.find(({ name }) => name === parameters.argument);
  if (slot === undefined) return problem;
  const near = parameters.near.map((text) => asToken(text, slot, false));
  return { ...problem, parameters: { ...parameters, near } };
}

/** More wrong arguments than these are not told at once. */
const MOST_TOLD = 5;

/** A slash command must be answered, even where its handler has nothing to say. */
function answerReply(state: State, answer: Sayable | undefined): Reply | undefined {
  const { conversation, responder, surface } = heardOf(state);
  const notes = state.at === 'read' ? state.notes : undefined;
  if (notes !== undefined) return replyOf(conversation, withNotes(state, notes, answer));
  if (answer !== undefined) return replyOf(conversation, answer);
  if (surface !== 'slash' || responder?.hasSpoken === true) return undefined;
  return {
    notice: { body: sayInReply(conversation.language.words, 'reply.done') },
    visibleTo: whoSees('caller-if-possible', conversation),
  };
}

/** Who asked for more than there may be, or wrote what can be read in two ways, is told what was made of it. */
function withNotes(state: State, notes: readonly Note[], answer: Sayable | undefined): Saying {
  const { language, timeZone } = heardOf(state).conversation;
  const { words } = language;
  const told = notes.map(({ argument, read, because, to }) =>
    because === 'lowered'
      ? sayInReply(words, 'reply.lowered', { argument, to: amountIn(words, to) })
      : sayInReply(words, 'reply.read-as', { argument, read, as: amountIn(words, to) }),
  );
  const saying = asSaying(answer, words, timeZone);
  return { ...saying, details: [...(saying.details ?? []), ...told] };
}

function amountIn(words: Words, amount: Amount): string {
  if (typeof amount === 'object') return words.duration(amount.ms);
  // Whole: what the caller is told is what is taken.
  return typeof amount === 'number' ? amount.toLocaleString(words.locale, { maximumFractionDigits: 20 }) : amount;
}

function asSaying(answer: Sayable | undefined, words: Words, timeZone: string): Saying {
  if (answer === undefined) return { body: '' };
  if (typeof answer === 'string') return { body: answer };
  return isWorded(answer) ? { body: answer.wording(words, timeZone) } : answer;
}

/** On text an unknown name may be meant for another bot: only one that is nearly ours, or said to the bot, is answered. */
function isMeantForAnother(state: State, stop: Extract<Stop, { by: 'layer' }>): boolean {
  if (stop.code !== 'command.unknown' || heardOf(state).surface !== 'text') return false;
  return stop.parameters.near.length === 0 && stop.parameters.help === undefined;
}

/** @param trueForMs after how long what is said holds no more */
function problemReply(
  state: State,
  own: OwnWords,
  code: string,
  body: string,
  details?: readonly string[],
  trueForMs = Number.POSITIVE_INFINITY,
): Reply {
  const { surface, platform, conversation } = heardOf(state);
  const owns = [own.manners, ...(commandOf(state)?.manners ?? [])];
  const { visibleTo: manner, isOwn, expiresInMs: usual, usage = true } = mannerOf(code, owns);
  const notice: Notice =
    details !== undefined && usage ? { tone: 'problem', body, details } : { tone: 'problem', body };
  const isInPlace =
    platform?.capabilities.refusalsInPlace && surface === 'text' && !isOwn && conversation.audience !== 'caller';
  // What the handler itself says is as private as its command.
  const isStrict = isOwn || (conversation.audience === 'caller' && !Object.hasOwn(manners, code));
  const wanted = manner === 'caller' && !isStrict ? 'caller-if-possible' : manner;
  const visibleTo = isInPlace ? 'everyone' : whoSees(wanted, conversation);
  const expiresInMs = usual === undefined ? undefined : Math.min(usual, trueForMs);
  return expiresInMs === undefined ? { notice, visibleTo } : { notice, visibleTo, expiresInMs };
}

/** The command's own words, the layer's own, or the language's. */
export function message<C extends Code>(state: State, { code, parameters }: Coded<C>, words: OwnWords): string {
  const local = heardOf(state).conversation.language.words;
  const command = commandOf(state);
  const { argument } = parameters as { readonly argument?: string | undefined };
  const slot = argument === undefined ? undefined : command?.slots.all.find(({ name }) => name === argument);
  const owns: readonly (MessageOverrides | undefined)[] = [slot?.messages, command?.messages, words.messages];
  for (const own of owns) {
    const said = own?.[code];
    const text = typeof said === 'function' ? (said as OwnWording)(parameters, local) : said;
    if (typeof text === 'string' && text !== '') return text;
    // Nothing is what the bot has no words for; something else is a mistake.
    if (text !== undefined && text !== '') throw new TypeError(`The message for ${code} is no text`);
  }
  return messageIn(local, { code, parameters });
}

type OwnWording = (parameters: unknown, words: Words) => unknown;

/** How the command is written where the input came from, with the prefix that was used, and one example. */
function howToWrite(state: State, example?: string): string[] {
  const command = commandOf(state);
  if (command === undefined) return [];
  const { words } = heardOf(state).conversation.language;
  const written = (args: string) => `${prefixOf(heardOf(state))}${command.name} ${args}`.trimEnd();
  const usage = sayInReply(words, 'reply.usage', { written: written(command.notation) });
  return example === undefined ? [usage] : [usage, sayInReply(words, 'reply.example', { written: written(example) })];
}

/** Why an input stopped at a stage, for the bot's developer. */
export function stopInWords(state: State, stop: Stop): string {
  switch (stop.status) {
    case 'completed': {
      const command = commandOf(state);
      if (command === undefined) return heardOf(state).looks ? 'onUnknown would be asked' : 'onUnknown answered';
      const { aroundBy } = command;
      return `the handler answered${aroundBy.length === 0 ? '' : `, inside what runs around it by ${aroundBy.join(', ')}`}`;
    }
    case 'invalid':
      return stop.problems.map((problem) => `${problem.code}: ${messageIn(undefined, problem)}`).join(' ');
    case 'waiting': {
      const { asks } = stop;
      return `${heardOf(state).looks ? 'would ask' : 'asks'} for ${asks.for === 'argument' ? asks.argument : asks.for}`;
    }
    case 'failed':
      return `${stop.code}: ${stop.parameters.reference}`;
    case 'refused':
      return stop.by === 'handler'
        ? `${stop.code}: ${stop.parameters.reason}`
        : `${stop.code}: ${messageIn(undefined, stop)}`;
  }
}
