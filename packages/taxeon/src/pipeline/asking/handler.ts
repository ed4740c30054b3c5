/** What handlers ask: they wait in their process for the answer, or for that none comes. */

import type { CompiledSettings } from '../../access/rules.js';
import type { Question } from '../../asking/question.js';
import { isOneOf, sayInAsking, stopWords, yesOrNo } from '../../asking/words.js';
import { echoText } from '../../base/text.js';
import { andThen, inTime, isThenable } from '../../base/thenable.js';
import { type Arg, isArg } from '../../commands/arg.js';
import type { Sayable } from '../../commands/call.js';
import { isWorded } from '../../commands/worded.js';
import type { CodeParameters } from '../../contract/codes.js';
import type { Form } from '../../contract/form.js';
import type { Input } from '../../contract/input.js';
import type { Saying } from '../../contract/notice.js';
import { Pauses } from '../../delivery/pauses.js';
import { harmless } from '../../delivery/responder.js';
import { Reading, readingProblems } from '../../reading/reading.js';
import { compileSlots, type Slot } from '../../reading/slots.js';
import { handlerWaitOf, responderOf } from '../call.js';
import { readingContextOf } from '../read.js';
import { whoWhere } from '../recent.js';
import type { Asking, Heard, Read } from '../state.js';
import { type FailedStop, type RefusedStop, refused } from '../stop.js';
import { message } from '../wording.js';
import { readAnswer } from './answer.js';
import { barredNow } from './barred-now.js';
import { exampleOf, howToAnswer, howToDecide } from './how-to-answer.js';
import { type AskingContext, mayAsk, placeKey, platformOf } from './open-question.js';

/** A handler that waits for an answer. */
interface WaitingHandler {
  readonly heard: Heard;
  /** Never throws. */
  answered(input: Input, text: string, settings: CompiledSettings): void;
  end(stop: RefusedStop | FailedStop): void;
}

/** What a call throws into a handler that gets no answer. */
export class NoAnswer extends Error {
  override readonly name = 'Unanswered';
}

export class HandlerQuestions {
  private readonly waiting = new Map<string, WaitingHandler>();
  private readonly running = new WeakMap<Heard, Read>();

  constructor(private readonly context: AskingContext) {}

  of(key: string): WaitingHandler | undefined {
    return this.waiting.get(key);
  }

  begin(state: Read): void {
    this.running.set(state.heard, state);
  }

  /** With the handler, its question ends. */
  over(heard: Heard): void {
    this.running.delete(heard);
    const mine = this.waiting.get(placeKey(heard.input, heard.platform));
    if (mine?.heard === heard) mine.end(refused({ code: 'answer.none', parameters: { asked: '', because: 'late' } }));
  }

  close(): void {
    for (const one of [...this.waiting.values()]) one.end(refused({ code: 'layer.closing', parameters: {} }));
  }

  readonly ask: Asking['ask'] = (heard, question, arg) => {
    const { context, waiting } = this;
    const { basis, open, withinMs } = context;
    const { input, platform, conversation } = heard;
    const { language, timeZone } = conversation;
    const saying = sayingOf(question, (one) => one.wording(language.words, timeZone));
    const asked = echoText(saying.body);
    const key = placeKey(input, platform);
    const wait = handlerWaitOf(heard);
    const refuse = (because: CodeParameters['answer.none']['because']) => {
      wait.unanswered ??= refused({ code: 'answer.none', parameters: { asked, because } });
      return Promise.reject(new NoAnswer(`Nobody answers: ${because}`));
    };
    // Only while the handler runs, which ends its questions: no hook behind it, and no answer for unknown names.
    const state = this.running.get(heard);
    if (!mayAsk(context, heard, saying.visibleTo) || state === undefined || wait.isGivenUp) return refuse('nobody');
    if (waiting.has(key) || open.all.get(key)?.kind === 'handler' || open.isFull) return refuse('busy');
    const slot = arg === undefined ? undefined : slotOf(arg);
    const until = basis.clock.now() + withinMs;
    const id = open.newId();
    const form = heard.surface === 'slash' ? id : undefined;
    const say = (what: Saying, problem?: string) => said(context, heard, slot, form, what, problem);
    conversation.pauses ??= new Pauses(() => basis.steady.now());
    conversation.pauses.begin();
    return new Promise((resolve, reject) => {
      const done = () => {
        if (waiting.get(key) !== mine) return false;
        waiting.delete(key);
        conversation.pauses?.end();
        question.withdraw();
        return true;
      };
      const fail = (error: unknown) => {
        if (done()) reject(error);
      };
      const give = (value: unknown) => {
        if (done()) resolve(value);
      };
      const mine: WaitingHandler = {
        heard,
        answered(answer, text, settings) {
          try {
            const barred = barredNow(context.course(), state, answer, settings);
            const left = andThen(barred, (barred: RefusedStop | FailedStop | undefined) => {
              if (barred !== undefined) return mine.end(barred);
              return takeAnswer(context, heard, slot, answer, text, { give, end: mine.end, say, until, asked });
            });
            if (isThenable(left)) left.then(undefined, fail);
          } catch (error) {
            fail(error);
          }
        },
        end(stop) {
          if (waiting.get(key) !== mine) return;
          wait.unanswered ??= stop;
          fail(new NoAnswer(`Nobody answered: ${stop.code}`));
        },
      };
      waiting.set(key, mine);
      const late = () => mine.end(refused({ code: 'answer.none', parameters: { asked, because: 'late' } }));
      const question = open.open(key, { ...questionOf(context, heard, asked, until), id, form }, late);
      void question.isKept.then((isKept) => {
        if (!isKept) mine.end(refused({ code: 'store.unavailable', parameters: { reference: basis.reference() } }));
      });
      const details = [...(saying.details ?? []), howTo(heard, slot, withinMs)];
      say({ ...saying, details }).then(() => tellAsked(heard, asked, until), fail);
    });
  };
}

/** Asks by a message, or by a form where it is a slash command that runs. */
async function said(
  { basis, beginning }: AskingContext,
  heard: Heard,
  slot: Slot | undefined,
  id: string | undefined,
  what: Saying,
  problem: string | undefined,
): Promise<void> {
  const { platform, input } = heard;
  if (id === undefined || platform === undefined) return void (await responderOf(heard)?.reply(what));
  const question = [what.body, ...(what.details ?? [])].join('\n');
  const field = { name: 'answer', description: undefined, problem, example: slot && exampleOf(slot, heard) };
  const form: Form =
    slot === undefined ? { id, asks: 'confirmation', question } : { id, asks: 'fields', question, fields: [field] };
  await inTime(basis.clock, beginning.delivery.platformPatienceMs, () => platform.form?.(form, input));
}

function tellAsked({ input, platform, conversation, basis }: Heard, question: string, until: number): void {
  const { command = '' } = conversation;
  basis.events.tell('asked', { input, platform: platform?.name, command, question, until });
}

type WordedSayable = Extract<Sayable, { wording: unknown }>;

function sayingOf(question: Sayable, word: (wording: WordedSayable) => string): Saying {
  if (typeof question === 'string') return { body: question };
  return isWorded(question) ? { body: word(question) } : question;
}

/** @throws TypeError for what cannot be asked for */
function slotOf(arg: Arg<unknown>): Slot {
  if (!isArg(arg)) throw new TypeError('call.ask takes an argument, such as arg.integer(), and the question');
  const problems = arg.kind.tokens === 'attached' ? ['takes a file, which cannot be asked for'] : arg.problems;
  if (problems.length > 0) throw new TypeError(`What call.ask asks for ${problems.join('; ')}`);
  return compileSlots({ answer: arg }).all[0] as Slot;
}

function howTo(heard: Heard, slot: Slot | undefined, leftMs: number): string {
  return slot === undefined ? howToDecide(heard, leftMs) : howToAnswer(heard, slot, leftMs);
}

interface Ways {
  readonly give: (value: unknown) => void;
  readonly end: (stop: RefusedStop | FailedStop) => void;
  readonly say: (what: Saying, problem?: string) => Promise<void>;
  readonly until: number;
  readonly asked: string;
}

function takeAnswer(
  context: AskingContext,
  heard: Heard,
  slot: Slot | undefined,
  answer: Input,
  text: string,
  { give, end, say, until, asked }: Ways,
): PromiseLike<void> | undefined {
  const { basis, needs } = context;
  const { language } = heard.conversation;
  const stopped = () => end(refused({ code: 'answer.stopped', parameters: { asked } }));
  if (
    isOneOf(
      text,
      stopWords(language, (word) => slot?.kind.shape?.(word) === true),
    )
  ) {
    stopped();
    return undefined;
  }
  const again = (body: string, code: 'argument.invalid' | 'answer.none') => {
    const refusal = { code, command: heard.conversation.command, argument: 'answer', counts: undefined };
    const isHeard = heard.surface !== 'text' || (needs.damping?.judge(whoWhere(heard), refusal) ?? 'say') === 'say';
    const details = [howTo(heard, slot, until - basis.clock.now())];
    const told = isHeard ? say({ tone: 'problem', body, details }, body) : Promise.resolve();
    harmless(told.then(() => tellAsked(heard, asked, until)));
  };
  if (slot === undefined) {
    const verdict = yesOrNo(language, text);
    if (verdict === 'yes') give(undefined);
    else if (verdict === 'no') stopped();
    else again(sayInAsking(language.words, 'ask.undecided', { read: echoText(text) }), 'answer.none');
    return undefined;
  }
  const asking = { ...heard, input: answer, now: basis.clock.now() };
  const slots = { all: [slot], positional: [slot], flags: undefined, attached: undefined };
  const reading = new Reading(slots, readingContextOf(asking, answer.attachments), false);
  const apply = () => {
    const [problem] = readingProblems(reading) ?? [];
    if (problem === undefined) give(reading.args()['answer']);
    else again(message(heard, problem, needs.words), 'argument.invalid');
  };
  const pending = readAnswer(reading, slot, text);
  if (pending !== undefined) return pending.then(apply);
  apply();
  return undefined;
}

function questionOf(
  { open }: AskingContext,
  heard: Heard,
  asked: string,
  until: number,
): Omit<Question, 'id' | 'form'> {
  const { input, conversation, nameAt } = heard;
  const { id, name } = input.caller;
  const command = conversation.command ?? '';
  return {
    kind: 'handler',
    by: open.by,
    until,
    asked,
    command,
    signature: '',
    typed: command,
    text: '',
    nameAt,
    path: undefined,
    options: undefined,
    answers: {},
    about: '',
    confirmed: undefined,
    platform: platformOf(heard),
    person: { id, name },
    locale: conversation.language.locale,
  };
}
