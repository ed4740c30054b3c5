/** Stage 2, where something is asked for: whether a line is the answer that is waited for from this person here. */

import type { Question } from '../../asking/question.js';
import { decided, isOneOf, stopWords } from '../../asking/words.js';
import { isThenable, type MaybePromise } from '../../base/thenable.js';
import type { Entry } from '../../catalogue/catalogue.js';
import type { Input } from '../../contract/input.js';
import { guildOf, type Platform } from '../../contract/platform.js';
import { Cursor } from '../../reading/cursor.js';
import type { Language } from '../../replies/language.js';
import { inputProblem } from '../check-input.js';
import type { Gate, Hearing } from '../stage.js';
import { refused } from '../stop.js';
import type { HandlerQuestions } from './handler.js';
import { type AskingContext, type Continued, placeKey, signatureOf } from './questions.js';

/** Hot path: bench/rows/asking. */
export function matchAnswers(context: AskingContext, handlers: HandlerQuestions, match: Gate): Gate {
  const { open } = context;
  return {
    ...match,
    hear(services, input, platform, looks) {
      const hearing = match.hear(services, input, platform, looks);
      if (input.fills === undefined && (open.all.size === 0 || !open.asks(input.caller.id))) return hearing;
      const use = (heard: Hearing) => answerOr(context, handlers, heard, input, platform, looks);
      return isThenable(hearing) ? hearing.then(use) : use(hearing);
    },
    passed(heard) {
      const continued = context.continued.get(heard.input);
      return continued === undefined ? match.passed(heard) : `answers “${continued.question.asked}”`;
    },
  };
}

function answerOr(
  context: AskingContext,
  handlers: HandlerQuestions,
  hearing: Hearing,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
): MaybePromise<Hearing> {
  if (hearing !== 'chat' && typeof hearing !== 'number') return hearing;
  const key = placeKey(input, platform);
  const opened = context.open.all.get(key);
  if (inputProblem(input, platform) !== undefined) return hearing;
  if (input.fills !== undefined && input.fills !== opened?.form)
    return refused({ code: 'answer.none', parameters: { asked: '', because: 'late' } });
  if (opened === undefined) return hearing;
  const text = answerText(context, input, hearing, opened.form);
  if (text === undefined) return hearing;
  // What is no chat was looked at already.
  if (hearing === 'chat' && isRepeated(context, input, platform, looks)) return 'repeated';
  if (opened.kind === 'handler') {
    const mine = handlers.of(key);
    if (mine === undefined) return hearing;
    if (!looks) mine.answered(input, text);
    return 'answer';
  }
  return answering(context, key, hearing, input, platform, text, looks);
}

/** What is answered; nothing where the line is a command of its own, or no answer. */
function answerText(
  { services }: AskingContext,
  input: Input,
  hearing: 'chat' | number,
  form: string | undefined,
): string | undefined {
  const { surface, text = '', isEdit, fills, attachments } = input;
  if (form !== undefined || fills !== undefined) return fills === form ? filledIn(input) : undefined;
  if ((surface !== 'text' && surface !== 'console') || isEdit === true) return undefined;
  const isSomething = (said: string) => (/\S/u.test(said) || attachments?.length ? said : undefined);
  if (hearing === 'chat') return isSomething(text);
  // A sign in front makes it a command, known or not; a name or a mention only says to whom it is said.
  if (hearing > 0 && !/[\p{L}\p{N}]/u.test(text.slice(0, hearing))) return undefined;
  const behind = text.slice(hearing);
  const cursor = new Cursor(behind, 0);
  return cursor.next() && services.catalogue.names.get(cursor.value()) !== undefined ? undefined : isSomething(behind);
}

/** The one thing that a form asks for which is no command's own: a handler's question, or a yes. */
function filledIn({ answers = {} }: Input): string {
  const filled: unknown = answers['confirm'] ?? answers['answer'];
  return typeof filled === 'string' ? filled : '';
}

function isRepeated(
  { services: { recent } }: AskingContext,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
): boolean {
  if (input.id === undefined) return false;
  const name = platform?.name ?? '';
  return looks ? recent.knows(name, input) : recent.seen(name, input);
}

/** The input that the answer makes of the one that asked. */
async function answering(
  context: AskingContext,
  key: string,
  hearing: 'chat' | number,
  input: Input,
  platform: Platform | undefined,
  text: string,
  looks: boolean,
): Promise<Hearing> {
  const { services, open, continued } = context;
  let question: Question | undefined;
  try {
    question = looks ? (await open.look(key))?.question : await open.take(key);
  } catch (error) {
    const reference = services.reference();
    services.outages.tell({ error, reference });
    return refused({ code: 'store.unavailable', parameters: { reference } });
  }
  if (question === undefined || question.until <= services.clock.now()) return hearing;
  const command = commandNamed(
    services.catalogue.find(bare(question.typed)) ?? services.catalogue.find(question.typed),
  );
  if (command === undefined || command.id !== question.command || signatureOf(command) !== question.signature)
    return refused({ code: 'command.changed', parameters: { name: question.typed } });
  const kind = command.slots.all.find(({ name }) => name === question.asked)?.kind;
  const guild = guildOf(input.place);
  const settings = guild && services.guilds.known(platform?.name ?? '', guild.id)?.compiled.settings;
  const language = services.languageOf(input.locale, settings?.locale);
  const isValue = (word: string) => kind?.shape?.(word) === true;
  const { kind: asks, asked } = question;
  const said = input.fills !== undefined && asks === 'argument' ? 'answer' : saidIn(asks, language, text, isValue);
  const answers =
    input.fills !== undefined
      ? question.answers
      : asks === 'argument' && said === 'answer'
        ? { ...question.answers, [asked]: text }
        : question.answers;
  const confirmed = said === 'yes' ? asked : question.confirmed;
  const options =
    question.options === undefined || input.fills === undefined || asks !== 'argument'
      ? question.options
      : { ...question.options, ...input.answers };
  const next: Input = {
    ...input,
    answers,
    ...(question.text === undefined ? {} : { text: question.text }),
    ...(question.path === undefined ? {} : { path: question.path }),
    ...(options === undefined ? {} : { options }),
    ...(confirmed === undefined ? {} : { confirmed }),
  };
  continued.set(next, { question, said, text });
  return { status: 'answering', input: next, nameAt: question.nameAt };
}

function saidIn(
  asks: Question['kind'],
  language: Language,
  text: string,
  isValue: (word: string) => boolean,
): Continued['said'] {
  if (isOneOf(text, stopWords(language, isValue))) return 'stop';
  return asks === 'confirmation' ? (decided(language, text) ?? 'undecided') : 'answer';
}

function commandNamed(entry: Entry | undefined) {
  return entry?.kind === 'command' ? entry : undefined;
}

/** Without the punctuation of a sentence behind it. */
function bare(name: string): string {
  return name.replace(/(?<=.)[,.:;!?]{1,8}$/, '');
}
