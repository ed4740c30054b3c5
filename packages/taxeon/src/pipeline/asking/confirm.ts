/** Stage 7, where the caller has to say yes: behind all other requirements, and before anything is taken of the limits. */
import { inWords } from '../../asking/words.js';
import { echo } from '../../base/text.js';
import { isThenable, type MaybePromise } from '../../base/thenable.js';
import type { Step } from '../stage.js';
import type { Read } from '../state.js';
import { refused, type Stop } from '../stop.js';
import { howToDecide } from './how.js';
import { type AskingContext, askFor, canAsk } from './questions.js';

/** Longer ones are cut by no platform. */
const LONGEST_QUESTION = 1000;

export function standingConfirmed(context: AskingContext, standing: Step<Read, Read>): Step<Read, Read> {
  return {
    ...standing,
    take(state) {
      const taken = standing.take(state);
      const use = (next: Read | Stop) =>
        'at' in next && next.command.confirm !== undefined ? confirm(context, next) : next;
      return isThenable(taken) ? taken.then(use) : use(taken);
    },
  };
}

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
  // What is to be done may be something else by now: then that is asked for.
  if (heard.input.confirmed === question) return state;
  const continued = context.continued.get(heard.input);
  if (continued?.said === 'no' && continued.question.asked === question)
    return refused({ code: 'answer.stopped', parameters: { asked: question } });
  const otherwise = refused({
    code: 'answer.none',
    parameters: { asked: question, because: heard.platform === undefined ? 'nobody' : 'busy' },
  });
  if (!canAsk(heard)) return refused({ code: 'answer.none', parameters: { asked: question, because: 'nobody' } });
  const now = context.services.clock.now();
  const isUndecided = continued?.said === 'undecided' && continued.question.asked === question;
  const until = isUndecided ? continued.question.until : now + context.withinMs;
  const decide = howToDecide(heard, until - now);
  const body = isUndecided ? inWords(language, 'ask.undecided', { read: echo(continued.text) }) : question;
  return askFor(
    context,
    state,
    {
      asks: { for: 'confirmation', question },
      code: 'answer.none',
      parameters: {},
      until,
      asked: question,
      answers: heard.input.answers ?? {},
      notice: { tone: isUndecided ? 'problem' : 'info', body, details: isUndecided ? [question, decide] : [decide] },
      showForm: async (id, platform) =>
        void (await platform.form?.({ id, asks: 'confirmation', question }, heard.input)),
    },
    otherwise,
  );
}
