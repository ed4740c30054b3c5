/** Stage 6, where what is missing is asked for. */
import { sayInAsking } from '../../asking/words.js';
import { andThen, isThenable, type MaybePromise, patiently } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import type { Expectation } from '../../contract/expectation.js';
import type { FormField } from '../../contract/form.js';
import type { Problem } from '../../contract/outcome.js';
import type { Words } from '../../contract/words.js';
import type { Reading } from '../../reading/reading.js';
import type { Slot } from '../../reading/slots.js';
import { limits } from '../limits.js';
import { localizedOf } from '../overview.js';
import { finishLater, finishReading, readInto } from '../read.js';
import type { Admitted, Heard, Read } from '../state.js';
import { type InvalidStop, refused, type Stop } from '../stop.js';
import { message } from '../wording.js';
import { readAnswers } from './answer.js';
import { exampleOf, howToAnswer } from './how-to-answer.js';
import { type AskingContext, askFor, canAsk, isSilent } from './open-question.js';

/** The line with what was answered over it; where something is missing or wrong, that is asked for. */
export function readAsking(context: AskingContext, state: Admitted, reading: Reading): MaybePromise<Read | Stop> {
  const { input, continued } = state.heard;
  if (continued?.said === 'stop')
    return refused({ code: 'answer.stopped', parameters: { asked: continued.question.asked } });
  const pending = readInto(reading, state);
  const { answers } = input;
  const over = () =>
    answers === undefined || state.cursor === undefined || reading.broken ? undefined : readAnswers(reading, answers);
  const both = isThenable(pending) ? pending.then(over) : over();
  const whole = isThenable(both) ? finishLater(both, reading, state) : finishReading(reading, state);
  const use = (next: Read | Stop) =>
    'status' in next && next.status === 'invalid' ? askInstead(context, state, next) : next;
  const { clock, patienceMs } = context.basis;
  return isThenable(whole) ? patiently(clock, whole, patienceMs).then(use) : use(whole);
}

/** Where all that is wrong can be asked for, the first of it is. */
function askInstead(context: AskingContext, state: Admitted, stop: InvalidStop): MaybePromise<Stop> {
  const { heard, command } = state;
  const lacking = stop.problems.map((problem) => lackingOf(context, command, problem));
  const [first] = lacking;
  if (first === undefined || lacking.includes(undefined) || !canAsk(context, heard)) return stop;
  // Files are not kept for the answer.
  if (command.slots.attached !== undefined && (heard.input.attachments?.length ?? 0) > 0) return stop;
  const { code } = first.problem;
  const parameters = { argument: first.slot.name };
  if (isSilent(context, state, { code, parameters })) return stop;
  return andThen(lookAtLimits(context, state), (verdict: object) =>
    'status' in verdict && verdict.status !== 'completed'
      ? (verdict as Stop)
      : askForFirst(context, state, first, lacking as readonly Lacking[], stop),
  );
}

interface Lacking {
  readonly slot: Slot;
  readonly problem: Problem;
}

const askable: readonly string[] = [
  'argument.missing',
  'argument.invalid',
  'argument.ambiguous',
  'argument.absent-member',
] satisfies Problem['code'][];

function lackingOf({ whenMissing }: AskingContext, command: CompiledCommand, problem: Problem): Lacking | undefined {
  const { parameters, code } = problem;
  if (!askable.includes(code) || !('argument' in parameters)) return undefined;
  const slot = command.slots.all.find(({ name }) => name === parameters.argument);
  if (slot === undefined || slot.absent.as === 'undefined' || slot.absent.as === 'value') return undefined;
  return (slot.whenMissing ?? command.whenMissing ?? whenMissing) === 'ask' ? { slot, problem } : undefined;
}

/** Nobody is asked for what would then be refused by a cooldown. What depends on arguments shows when they are there. */
function lookAtLimits({ needs }: AskingContext, { heard, command, typed }: Admitted): MaybePromise<object> {
  const looking: Heard = { ...heard, looks: true };
  const state: Read = { at: 'read', heard: looking, command, typed, args: {}, named: {}, notes: undefined };
  return command.countsPlainly ? limits.take(state, needs.limits) : state;
}

function askForFirst(
  context: AskingContext,
  state: Admitted,
  { slot, problem }: Lacking,
  lacking: readonly Lacking[],
  otherwise: Stop,
): Promise<Stop> {
  const { heard } = state;
  const { language } = heard.conversation;
  const now = context.basis.clock.now();
  const before = heard.continued?.question;
  const isAgain = before?.kind === 'argument' && before.asked === slot.name;
  const until = isAgain ? before.until : now + context.withinMs;
  const { [slot.name]: _, ...answers } = heard.input.answers ?? {};
  const isMissing = problem.code === 'argument.missing';
  const body = isMissing ? questionFor(slot, problem, language.words) : message(state, problem, context.needs.words);
  const description = argumentDescription(state, slot);
  const how = howToAnswer(heard, slot, until - now);
  return askFor(
    context,
    state,
    {
      asks: { for: 'argument', argument: slot.name, problem },
      code: problem.code,
      parameters: { argument: slot.name },
      until,
      asked: slot.name,
      answers,
      notice: {
        tone: isMissing ? 'info' : 'problem',
        body,
        details: [...(isMissing && description !== undefined ? [description] : []), how],
      },
      async showForm(id, platform) {
        const fields = lacking.map(
          (one): FormField => ({
            name: one.slot.name,
            description: argumentDescription(state, one.slot),
            problem: message(state, alone(one), context.needs.words),
            example: exampleOf(one.slot, heard),
          }),
        );
        await platform.form?.({ id, asks: 'fields', question: undefined, fields }, heard.input);
      },
    },
    otherwise,
  );
}

/** The bot's own question, or what is expected. */
function questionFor({ name, kind, question }: Slot, problem: Problem, words: Words): string {
  const own: unknown = typeof question === 'function' ? question(words) : question;
  if (typeof own === 'string' && own !== '') return own;
  const { expected = kind.expected } = problem.parameters as { readonly expected?: Expectation };
  return sayInAsking(words, 'ask.argument', {
    argument: name,
    expected: words.expected(kind.expectedAlone ?? expected),
  });
}

/** What is missing, as it is typed where nothing else stands beside it. */
function alone({ slot: { kind }, problem }: Lacking): Problem {
  const expected = kind.expectedAlone;
  if (expected === undefined || problem.code !== 'argument.missing') return problem;
  return { code: problem.code, parameters: { ...problem.parameters, expected } };
}

/** In the reader's language where it is declared. */
function argumentDescription({ command, heard }: Admitted, { name, description }: Slot): string | undefined {
  return localizedOf(heard.conversation.language, command)?.args?.[name] ?? description;
}
