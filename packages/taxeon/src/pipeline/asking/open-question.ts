/** Opening a question in the chat, and going on with its answer. */

import { isUnique } from '../../access/context.js';
import type { OpenQuestions } from '../../asking/open-questions.js';
import { questionKey } from '../../asking/question-keys.js';
import { inTime } from '../../base/thenable.js';
import type { CompiledCommand } from '../../catalogue/catalogue.js';
import type { WhenMissing } from '../../commands/arg.js';
import type { Input } from '../../contract/input.js';
import type { Notice } from '../../contract/notice.js';
import type { Platform } from '../../contract/platform.js';
import type { Store } from '../../contract/store.js';
import { canHide } from '../../delivery/deliver.js';
import type { GuildSettingsBook } from '../../guilds/book.js';
import type { SparseLog } from '../../observe/sparse-log.js';
import { Timings } from '../../observe/timings.js';
import type { Damping } from '../damping.js';
import type { LimitsNeeds } from '../limits.js';
import type { Continued } from '../match-result.js';
import type { RecentIds } from '../recent.js';
import { whoWhere } from '../recent.js';
import { end } from '../runner.js';
import type { Course } from '../stage.js';
import { type Admitted, type Asking, anew, type Heard, type Read, stoppedAt } from '../state.js';
import { refused, type Stop, type WaitingStop } from '../stop.js';
import type { OwnWords } from '../wording.js';

/** What asking needs of its layer. */
export interface AskingNeeds {
  readonly store: Store;
  readonly storePatienceMs: number;
  /** Told where the store did not answer. */
  readonly outages: SparseLog;
  readonly guilds: Pick<GuildSettingsBook, 'known'>;
  readonly recent: RecentIds;
  readonly damping: Damping | undefined;
  readonly words: OwnWords;
  /** Looked at before anybody is asked for what these would refuse. */
  readonly limits: LimitsNeeds;
}

/** What `askInChat` gives for the layer that it is given to. */
export type AskingFor = (
  needs: AskingNeeds,
  shared: Pick<Course, 'basis' | 'current' | 'beginning'>,
  course: () => Course,
) => Asking;

/** What all that asks has in common. */
export interface AskingContext extends Pick<Course, 'basis' | 'current' | 'beginning'> {
  readonly needs: AskingNeeds;
  /** Once the layer is made. */
  course(): Course;
  readonly open: OpenQuestions;
  /** How long an answer is waited for, in milliseconds. */
  readonly withinMs: number;
  readonly whenMissing: WhenMissing;
}

/** What a person said yes to, and whom and what it is about: it counts for that alone. */
export function confirmedBy(continued: Continued | undefined): string | undefined {
  return continued?.said === 'yes' ? continued.question.about : continued?.question.confirmed;
}

/** Who is asked where: a person of a platform, in a channel; or the console, about a channel or nothing. */
export function placeKey({ surface, caller, place }: Input, platform: Platform | undefined): string {
  // What is asked among a few is not answered where all hear it.
  const among = place.kind === 'guild' && place.heardBy !== undefined ? `\n${place.heardBy}` : '';
  const channel = place.kind === 'console' ? '' : `${place.channel.id}${among}`;
  // Nobody in a channel answers what the console is asked, whatever their id is.
  return questionKey(platform?.name ?? '', caller.id, surface === 'console' ? `console ${channel}` : channel);
}

/** Whom a question outlives: nobody is told at a console that its process is gone. */
export function platformOf({ surface, platformName }: Heard): string {
  return surface === 'console' ? '' : platformName;
}

/** Whether the bot can ask where an input came from: in a conversation, or by a form of the platform's. */
export function canAsk({ current }: AskingContext, { surface, platform, input }: Heard): boolean {
  if (platform === undefined || current.isClosing || !isUnique(input.caller)) return false;
  if (surface === 'slash') return platform.form !== undefined && input.text === undefined;
  return surface === 'text' || surface === 'console';
}

/** Whether what a handler or a command says in its own words may be said here: what is for the caller alone is not asked before others. */
export function mayAsk(context: AskingContext, heard: Heard, visibleTo = heard.conversation.audience): boolean {
  const { platform, input } = heard;
  return canAsk(context, heard) && (visibleTo !== 'caller' || platform === undefined || canHide(platform, input));
}

/** What an answer is for: a command whose arguments are others by now is another one. */
export function signatureOf({ notation, slots }: CompiledCommand): string {
  return [notation, ...slots.all.map(({ kind }) => kind.name)].join(' ');
}

/** What a question says, and how its answer is found again. */
export interface QuestionAsked extends Pick<WaitingStop, 'asks' | 'code' | 'parameters'> {
  readonly until: number;
  readonly asked: string;
  /** What a yes would be to. */
  readonly about?: string;
  readonly answers: Readonly<Record<string, string>>;
  readonly notice: Notice;
  /** Shows the question as a form, where it is no line that is answered. */
  showForm?(id: string, platform: Platform): PromiseLike<void> | void;
}

/**
 * Asks, or gives `otherwise` where that cannot be: too much is open, the store does not answer, a handler asks already.
 */
export async function askFor(
  context: AskingContext,
  state: Admitted | Read,
  { asks, code, parameters, until, asked, about = '', answers, notice, showForm }: QuestionAsked,
  otherwise: Stop,
): Promise<Stop> {
  const { open } = context;
  const { heard, command } = state;
  const { input, platform, conversation, surface } = heard;
  // What is asked for is declared, and no secret.
  const isSeen = platform !== undefined && !canHide(platform, input);
  const visibleTo = isSeen ? 'everyone' : (conversation.audience ?? 'everyone');
  const reply = surface === 'slash' ? undefined : { notice, visibleTo };
  const waiting = { status: 'waiting', asks, until, code, parameters, reply } as const;
  if (heard.looks) return { ...waiting, asked: () => undefined };
  // Nothing would close what is held open, where a form stands in place of the reply.
  if (heard.responder?.held !== undefined) return otherwise;
  const key = placeKey(input, platform);
  const before = open.all.get(key);
  if (before?.kind === 'handler' || (before === undefined && open.isFull)) return otherwise;
  const { id, name } = input.caller;
  const questionId = open.newId();
  const form = surface === 'slash' ? questionId : undefined;
  const { isKept, withdraw } = open.open(
    key,
    {
      id: questionId,
      kind: asks.for,
      by: open.by,
      until,
      asked,
      command: command.id,
      signature: signatureOf(command),
      typed: state.typed,
      text: input.text,
      nameAt: heard.nameAt,
      path: input.path,
      options: input.options,
      answers,
      about,
      confirmed: confirmedBy(heard.continued),
      form,
      platform: platformOf(heard),
      person: { id, name },
      locale: conversation.language.locale,
    },
    () => void late(context, key, state, asked),
  );
  if (!(await isKept)) return otherwise;
  if (form !== undefined && platform !== undefined && !(await isShown(context, platform, form, showForm))) {
    withdraw();
    return otherwise;
  }
  return {
    ...waiting,
    asked(isTold) {
      if (!isTold) withdraw();
    },
  };
}

async function isShown(
  { basis, beginning }: AskingContext,
  platform: Platform,
  form: string,
  show: QuestionAsked['showForm'],
): Promise<boolean> {
  try {
    await inTime(basis.clock, beginning.delivery.platformPatienceMs, () => show?.(form, platform));
    return true;
  } catch (error) {
    basis.log.warn({ platform: platform.name, error }, 'A form was not shown');
    return false;
  }
}

/** Nobody has answered: the call that asked ends a second time, and says so. */
async function late(context: AskingContext, key: string, state: Admitted | Read, asked: string) {
  const { open, basis, current, needs } = context;
  try {
    const question = await open.take(key);
    if (question === undefined || current.isClosing) return;
  } catch (error) {
    needs.outages.tell({ error, reference: basis.reference() });
    return;
  }
  const { heard } = state;
  const timings = basis.events.timesEndings ? new Timings(basis.clock) : undefined;
  const again = anew(heard, { continued: undefined, timings });
  const stop = refused({ code: 'answer.none', parameters: { asked, because: 'late' } });
  await end(context.course(), stoppedAt({ ...state, heard: again }, stop));
}

/** Whether nobody would hear the question, since the same was told often enough. */
export function isSilent(
  { needs }: AskingContext,
  { heard, command }: Admitted | Read,
  { code, parameters }: Pick<QuestionAsked, 'code' | 'parameters'>,
) {
  const refusal = { code, command: command.id, argument: parameters.argument, counts: undefined };
  return heard.surface === 'text' && needs.damping?.isSilent(whoWhere(heard), refusal) === true;
}
