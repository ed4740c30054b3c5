/** Stage 2, where something is asked for: whether a line is the answer that is waited for from this person here. */

import { isUnique } from '../../access/context.js';
import type { CompiledSettings } from '../../access/rules.js';
import type { MaybePromise } from '../../base/thenable.js';
import type { Input } from '../../contract/input.js';
import type { Platform } from '../../contract/platform.js';
import { Cursor } from '../../reading/cursor.js';
import { inputProblem } from '../intake.js';
import type { MatchResult } from '../match-result.js';
import { refused } from '../stop.js';
import type { HandlerQuestions } from './handler.js';
import { type AskingContext, placeKey } from './open-question.js';
import { resume } from './resume.js';

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
