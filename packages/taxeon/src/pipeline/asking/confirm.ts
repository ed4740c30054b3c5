/** Stage 7, where the caller has to say yes: behind all other requirements, and before anything is taken of the limits. */
import { sayInAsking } from '../../asking/words.js';
import { echo } from '../../base/text.js';
import type { MaybePromise } from '../../base/thenable.js';
import type { Read } from '../state.js';
import { refused, type Stop } from '../stop.js';
import { howToDecide } from './how-to-answer.js';
import { type AskingContext, askFor, confirmedBy, mayAsk } from './open-question.js';

/** Longer ones are cut by no platform. */
const LONGEST_QUESTION = 1000;

export function confirm(context: AskingContext, state: Read): MaybePromise<Read | Stop> {
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
  const body = isUndecided ? sayInAsking(language.words, 'ask.undecided', { read: echo(continued.text) }) : question;
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
