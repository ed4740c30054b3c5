/** What is said for how a run stopped, in the caller's language. */
import type { Sayable } from '../commands/call.js';
import { isWorded } from '../commands/worded.js';
import type { Code, Coded, MessageOverrides } from '../contract/codes.js';
import type { Notice, Reply, Saying } from '../contract/notice.js';
import type { Words } from '../contract/words.js';
import { replyOf } from '../delivery/responder.js';
import type { Conclusion } from './conclude.js';
import type { Run } from './run-object.js';

/** What the caller reads; `undefined` where nothing is said. */
export function replyTo(run: Run, stop: Conclusion): Reply | undefined {
  switch (stop.status) {
    case 'completed':
      return answerReply(run, stop.answer);
    case 'refused': {
      if (stop.by === 'handler') {
        const { code, reason } = stop.refusal;
        return problemReply(run, code, typeof reason === 'string' ? reason : reason(run.words, run.timeZone));
      }
      if (stop.code === 'requirement.failed') return problemReply(run, stop.code, message(run, stop), howToWrite(run));
      return isSilent(run, stop) ? undefined : problemReply(run, stop.code, message(run, stop));
    }
    case 'failed':
      return problemReply(run, stop.code, message(run, stop));
    case 'invalid': {
      const told = stop.problems.slice(0, MOST_TOLD).map((problem) => message(run, problem));
      return problemReply(run, stop.problems[0].code, told.join('\n'), howToWrite(run));
    }
  }
}

/** A slash command must be answered, even where its handler has nothing to say. */
function answerReply(run: Run, answer: Sayable | undefined): Reply | undefined {
  if (run.lowered !== undefined) return replyOf(run, withLowered(run, answer));
  if (answer !== undefined) return replyOf(run, answer);
  if (run.surface !== 'slash' || run.madeResponder?.hasSpoken === true) return undefined;
  return { notice: { body: run.language.phrases.done() }, visibleTo: 'caller' };
}

/** Whoever asked for more than there may be is told what they got. */
function withLowered(run: Run, answer: Sayable | undefined): Saying {
  const { language, lowered = [] } = run;
  const notes = lowered.map(({ argument, to }) => language.phrases.lowered(argument, language.words.amount(to)));
  const saying = asSaying(run, answer);
  return { ...saying, details: [...(saying.details ?? []), ...notes] };
}

function asSaying(run: Run, answer: Sayable | undefined): Saying {
  if (answer === undefined) return { body: '' };
  if (typeof answer === 'string') return { body: answer };
  return isWorded(answer) ? { body: answer.wording(run.words, run.timeZone) } : answer;
}

/** On text an unknown name may be meant for another bot: only one that is nearly ours is answered. */
function isSilent(run: Run, stop: Extract<Conclusion, { by: 'layer' }>): boolean {
  return stop.code === 'command.unknown' && stop.parameters.near.length === 0 && run.surface === 'text';
}

function problemReply({ services }: Run, code: string, body: string, details?: readonly string[]): Reply {
  const notice: Notice = details === undefined ? { tone: 'problem', body } : { tone: 'problem', body, details };
  return { notice, ...services.mannerOf(code) };
}

/** The command's own words, the layer's own, or the language's. */
function message<C extends Code>({ found, services, language }: Run, { code, parameters }: Coded<C>): string {
  const own: MessageOverrides[C] = found?.messages?.[code] ?? services.messages[code];
  if (own === undefined) return language.messages[code](parameters as never);
  return typeof own === 'string' ? own : (own as OwnWords)(parameters, language.words);
}

type OwnWords = (parameters: unknown, words: Words) => string;

/** More wrong arguments than these are not told at once. */
const MOST_TOLD = 5;

/** How the command is written where the input came from, with the prefix that was used, and one example. */
function howToWrite({ found, prefix, language: { phrases } }: Run): string[] {
  if (found === undefined) return [];
  const written = (args: string) => `${prefix}${found.name} ${args}`.trimEnd();
  const usage = phrases.usage(written(found.notation));
  const [example] = found.examples;
  return example === undefined ? [usage] : [usage, phrases.example(written(example))];
}
