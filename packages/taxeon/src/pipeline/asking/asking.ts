/** What stages ask in the chat through. */
import { OpenQuestions } from '../../asking/open-questions.js';
import type { Question } from '../../asking/question.js';
import { sayInAsking } from '../../asking/words.js';
import { aDuration, checkFields, type Fields } from '../../base/fields.js';
import { echoText } from '../../base/text.js';
import { andThen, inTime, type MaybePromise } from '../../base/thenable.js';
import { type Duration, durationMs } from '../../base/time.js';
import { aWhenMissing, type WhenMissing } from '../../commands/arg.js';
import type { Platform } from '../../contract/platform.js';
import type { MatchResult } from '../match-result.js';
import type { Course } from '../stage.js';
import type { Asking, Read } from '../state.js';
import { refused, type Stop } from '../stop.js';
import { HandlerQuestions } from './handler.js';
import { answerOr } from './hear.js';
import { howToDecide } from './how-to-answer.js';
import { readAsking } from './missing.js';
import { type AskingContext, type AskingFor, type AskingNeeds, askFor, confirmedBy, mayAsk } from './open-question.js';

export interface AskingOptions {
  /** How long an answer is waited for; 1 min by default. */
  readonly within?: Duration;
  /** Whether a required argument that is missing or wrong is asked for where neither it nor its command says; `'refuse'` by default. */
  readonly whenMissing?: WhenMissing;
  /** How many questions may be open at once; 10,000 by default. What is beyond is refused as if nothing were asked. */
  readonly most?: number;
}

const fields: Fields<AskingOptions> = {
  within: aDuration,
  whenMissing: aWhenMissing,
  most: (value) => (Number.isSafeInteger(value) && (value as number) > 0 ? undefined : 'a whole number from 1 on'),
};

/**
 * Lets a layer ask in the chat: for arguments that say `whenMissing: 'ask'`, for the yes of commands that have `confirm`,
 * and for what handlers want through `call.ask` and `call.confirm`.
 *
 * @throws TypeError naming every option that is wrong
 *
 * @example
 * createCommandLayer({ commands, prefixes: ['!'], asking: askInChat({ within: '2m' }) });
 */
export function askInChat(options: AskingOptions = {}): AskingFor {
  const problems: string[] = [];
  checkFields(options, fields, (field, problem) => void problems.push(`askInChat, ${field}: ${problem}`));
  if (problems.length > 0) throw new TypeError(problems.join('\n'));
  return (needs, shared, course) => askingOf(needs, shared, course, options);
}

function askingOf(
  needs: AskingNeeds,
  { basis, current, beginning }: Pick<Course, 'basis' | 'current' | 'beginning'>,
  course: () => Course,
  { within = '1m', whenMissing = 'refuse', most = 10_000 }: AskingOptions,
): Asking {
  const platforms = new Map<string, Platform>();
  /** Of platforms that are not connected yet. */
  let orphans: readonly Question[] = [];
  const orphaned = (question: Question) => {
    if (question.platform === '') return;
    const platform = platforms.get(question.platform);
    if (platform !== undefined) void tellLost(context, platform, question);
    else orphans = [...orphans.slice(1 - most), question];
  };
  const context: AskingContext = {
    basis,
    current,
    beginning,
    needs,
    course,
    open: new OpenQuestions({ ...needs, clock: basis.clock, reference: basis.reference }, most, orphaned),
    withinMs: durationMs(within) ?? 0,
    whenMissing,
  };
  const handlers = new HandlerQuestions(context);
  return {
    hear(input, platform, looks, settings, hearing) {
      const { open } = context;
      if (input.fills === undefined && (open.all.size === 0 || !open.asks(input.caller.id))) return hearing;
      return andThen(hearing, (heard: MatchResult) =>
        answerOr(context, handlers, heard, input, platform, looks, settings),
      );
    },
    read: (state, reading) => readAsking(context, state, reading),
    confirm(checked) {
      return andThen(checked, (next: Read | Stop) => ('at' in next ? confirm(context, next) : next));
    },
    ask: handlers.ask,
    begin: (state) => handlers.begin(state),
    over: (heard) => handlers.over(heard),
    connected(platform) {
      platforms.set(platform.name, platform);
      const told = orphans.filter((question) => question.platform === platform.name);
      orphans = orphans.filter((question) => !told.includes(question));
      told.forEach(orphaned);
    },
    openQuestions: () => context.open.all.size,
    close() {
      handlers.close();
      context.open.close();
    },
  };
}

/** The handler that asked is gone with its process. */
async function tellLost(
  { basis, beginning }: AskingContext,
  platform: Platform,
  { person, locale }: Question,
): Promise<void> {
  const { clock, log } = basis;
  const body = sayInAsking(beginning.languageOf(locale, undefined).words, 'ask.lost');
  try {
    const reply = { notice: { tone: 'info', body }, visibleTo: 'caller' } as const;
    await inTime(clock, beginning.delivery.platformPatienceMs, () =>
      platform.tell?.({ kind: 'user', ...person }, reply),
    );
  } catch (error) {
    log.warn(
      { platform: platform.name, person: person.id, error },
      'Somebody was not told that their answer is not awaited any more',
    );
  }
}

// Stage 7, where the caller has to say yes: behind all other requirements, and before anything is taken of the limits.
/** Longer ones are cut by no platform. */
const LONGEST_QUESTION = 1000;

function confirm(context: AskingContext, state: Read): MaybePromise<Read | Stop> {
  const { heard, command, args } = state;
  const { language } = heard.conversation;
  // The bot's own code means what it calls.
  if (heard.surface === 'program') return state;
  const question: unknown =
    typeof command.confirm === 'function' ? command.confirm(args, language.words) : command.confirm;
  if (typeof question !== 'string' || question.trim() === '' || question.length > LONGEST_QUESTION) {
    throw new TypeError(`\`confirm\` of ${command.name} gives no question of at most ${LONGEST_QUESTION} characters`);
  }
  const about = aboutWhom(question, state);
  const { continued } = heard;
  // What is to be done, or to whom, may be something else by now: then that is asked for.
  if (confirmedBy(continued) === about) return state;
  if (continued?.said === 'no' && continued.question.asked === question)
    return refused({ code: 'answer.stopped', parameters: { asked: question } });
  const otherwise = refused({
    code: 'answer.none',
    parameters: { asked: question, because: heard.platform === undefined ? 'nobody' : 'busy' },
  });
  if (!mayAsk(context, heard))
    return refused({ code: 'answer.none', parameters: { asked: question, because: 'nobody' } });
  const now = context.basis.clock.now();
  const isUndecided = continued?.said === 'undecided' && continued.question.asked === question;
  const until = isUndecided ? continued.question.until : now + context.withinMs;
  const decide = howToDecide(heard, until - now);
  const body = isUndecided
    ? sayInAsking(language.words, 'ask.undecided', { read: echoText(continued.text) })
    : question;
  return askFor(
    context,
    state,
    {
      asks: { for: 'confirmation', question },
      code: 'answer.none',
      parameters: {},
      until,
      asked: question,
      about,
      answers: heard.input.answers ?? {},
      notice: { tone: isUndecided ? 'problem' : 'info', body, details: isUndecided ? [question, decide] : [decide] },
      showForm: async (id, platform) =>
        void (await platform.form?.({ id, asks: 'confirmation', question }, heard.input)),
    },
    otherwise,
  );
}

/** The question with the ids of all who and what was read: a name may be another person's when the yes comes. */
function aboutWhom(question: string, { args, named }: Read): string {
  const ids = [...Object.values(args), ...Object.values(named)].flat().map((one) => String(Object(one).id));
  return [question, ...ids].join('\n');
}
