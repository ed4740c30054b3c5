/** Stage 2, where something is asked for: whether a line is the answer that is waited for from this person here. */
import { isUnique } from '../../access/context.js';
import type { CompiledSettings } from '../../access/rules.js';
import type { Question } from '../../asking/question.js';
import { isOneOf, stopWords, yesOrNo } from '../../asking/words.js';
import type { MaybePromise } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import type { Input } from '../../contract/input.js';
import { guildOf, type Platform } from '../../contract/platform.js';
import { Cursor } from '../../reading/cursor.js';
import type { Language } from '../../replies/language.js';
import { inputProblem } from '../intake.js';
import type { Continued, MatchResult } from '../match-result.js';
import { type RefusedStop, refused } from '../stop.js';
import type { HandlerQuestions } from './handler.js';
import { type AskingContext, placeKey, signatureOf } from './open-question.js';

export function answerOr(
  context: AskingContext,
  handlers: HandlerQuestions,
  hearing: MatchResult,
  input: Input,
  platform: Platform | undefined,
  looks: boolean,
  settings: CompiledSettings,
): MaybePromise<MatchResult> {
  if (hearing !== 'chat' && typeof hearing !== 'number') return hearing;
  const key = placeKey(input, platform);
  const opened = context.open.all.get(key);
  if (inputProblem(input, platform) !== undefined) return hearing;
  if (input.fills !== undefined && input.fills !== opened?.form)
    return refused({ code: 'answer.none', parameters: { asked: '', because: 'late' } });
  if (opened === undefined || !isUnique(input.caller)) return hearing;
  const text = answerText(context, input, hearing, opened.form);
  if (text === undefined) return hearing;
  // What is no chat was looked at already.
  const { recent } = context.needs;
  if (hearing === 'chat' && input.id !== undefined && recent.meets(platform?.name ?? '', input, looks))
    return 'repeated';
  if (opened.kind === 'handler') {
    const mine = handlers.of(key);
    if (mine === undefined) return hearing;
    if (!looks) mine.answered(input, text, settings);
    return 'answer';
  }
  return resume(context, { key, input, platform, text, looks }, hearing);
}

/** What is answered; nothing where the line is a command of its own, or no answer. */
function answerText(
  { current }: AskingContext,
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
  return cursor.next() && current.catalogue.names.get(cursor.value()) !== undefined ? undefined : isSomething(behind);
}

/** The one thing that a form asks for which is no command's own: a handler's question, or a yes. */
function filledIn({ answers = {} }: Input): string {
  const filled: unknown = answers['confirm'] ?? answers['answer'];
  return typeof filled === 'string' ? filled : '';
}

// Going on with an answer: the input that it makes of the one that asked, which then passes all stages.
/** What a person answers to a question that is open. */
interface AnswerGiven {
  /** Under which the question is kept. */
  readonly key: string;
  readonly input: Input;
  readonly platform: Platform | undefined;
  /** As it was typed, or what decides a form. */
  readonly text: string;
  /** Only looks: the question stays open. */
  readonly looks: boolean;
}

/** @param otherwise what the line is where nothing is asked any more: another process has taken an answer, or the time is over */
async function resume(context: AskingContext, answer: AnswerGiven, otherwise: MatchResult): Promise<MatchResult> {
  const { basis, open } = context;
  let question: Question | undefined;
  try {
    question = answer.looks ? (await open.look(answer.key))?.question : await open.take(answer.key);
  } catch (error) {
    return storeUnavailable(context, error);
  }
  if (question === undefined || question.until <= basis.clock.now()) return otherwise;
  const command = questionCommand(context, question);
  if (command === undefined) return refused({ code: 'command.changed', parameters: { name: question.typed } });
  const said = saidTo(question, command, answerLanguage(context, answer), answer);
  const input = question.form === undefined ? answered(question, said, answer) : filled(question, answer);
  const continued = { question, said, text: answer.text };
  return { status: 'answering', input, nameAt: question.nameAt, continued };
}

function storeUnavailable({ basis, needs }: AskingContext, error: unknown): RefusedStop {
  const reference = basis.reference();
  needs.outages.tell({ error, reference });
  return refused({ code: 'store.unavailable', parameters: { reference } });
}

/** The command that asked, unless it is gone or another one by now. */
function questionCommand(
  { current: { catalogue } }: AskingContext,
  { typed, command, signature }: Question,
): CompiledCommand | undefined {
  // People put the punctuation of a sentence behind a name.
  const found = catalogue.find(typed) ?? catalogue.find(typed.replace(/(?<=.)[,.:;!?]{1,8}$/, ''));
  if (found?.kind !== 'command' || found.id !== command) return undefined;
  return signatureOf(found) === signature ? found : undefined;
}

function answerLanguage({ needs, beginning }: AskingContext, { input, platform }: AnswerGiven): Language {
  const guild = guildOf(input.place);
  const known = guild && needs.guilds.known(platform?.name ?? '', guild.id);
  return beginning.languageOf(input.locale, known?.compiled.settings.locale);
}

function saidTo(
  { kind, asked, form }: Question,
  { slots }: CompiledCommand,
  language: Language,
  { text }: AnswerGiven,
): Continued['said'] {
  if (kind === 'argument' && form !== undefined) return 'answer';
  const slot = slots.all.find(({ name }) => name === asked);
  if (
    isOneOf(
      text,
      stopWords(language, (word) => slot?.kind.shape?.(word) === true),
    )
  )
    return 'stop';
  return kind === 'argument' ? 'answer' : (yesOrNo(language, text) ?? 'undecided');
}

/** The line that asked, with the answer beside it. */
function answered(question: Question, said: Continued['said'], { input, text }: AnswerGiven): Input {
  const { asked, kind } = question;
  const answers = kind === 'argument' && said === 'answer' ? { ...question.answers, [asked]: text } : question.answers;
  return { ...input, text: question.text ?? '', answers };
}

/** The slash command that asked, with what was filled in among its options. */
function filled(question: Question, { input }: AnswerGiven): Input {
  const { path = [], options, kind } = question;
  const { answers: given, ...rest } = input;
  const all = kind === 'argument' ? { ...options, ...given } : { ...options };
  return { ...rest, path, options: all };
}
