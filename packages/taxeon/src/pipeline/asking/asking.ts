/** Stages that ask in the chat, in place of those that refuse. */
import { OpenQuestions } from '../../asking/open.js';
import type { Question } from '../../asking/question.js';
import { inWords } from '../../asking/words.js';
import { aDuration, checkFields, type Fields } from '../../base/fields.js';
import { patiently, promised } from '../../base/thenable.js';
import { type Duration, durationMs } from '../../base/time.js';
import { aWhenMissing, type WhenMissing } from '../../commands/arg.js';
import type { Platform } from '../../contract/platform.js';
import type { Services } from '../services.js';
import type { AnyStage, Gate, Step } from '../stage.js';
import type { Asking, AskingFor } from '../stages.js';
import { standingConfirmed } from './confirm.js';
import { HandlerQuestions } from './handler.js';
import { matchAnswers } from './hear.js';
import { readAsking } from './missing.js';
import type { AskingContext } from './questions.js';

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
  return (services) => askingOf(services, options);
}

function askingOf(services: Services, { within = '1m', whenMissing = 'refuse', most = 10_000 }: AskingOptions): Asking {
  const platforms = new Map<string, Platform>();
  /** Of platforms that are not connected yet. */
  let orphans: readonly Question[] = [];
  const orphaned = (question: Question) => {
    if (question.platform === '') return;
    const platform = platforms.get(question.platform);
    if (platform !== undefined) void tellLost(services, platform, question);
    else orphans = [...orphans.slice(1 - most), question];
  };
  const context: AskingContext = {
    services,
    open: new OpenQuestions(services, most, orphaned),
    withinMs: durationMs(within) ?? 0,
    whenMissing,
    continued: new WeakMap(),
  };
  const handlers = new HandlerQuestions(context);
  return {
    within: (all) => all.map((stage) => asking(context, handlers, stage)),
    ask: handlers.ask,
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

function asking(context: AskingContext, handlers: HandlerQuestions, stage: AnyStage): AnyStage {
  switch (stage.name) {
    case 'match':
      return matchAnswers(context, handlers, stage as Gate);
    case 'read':
      return readAsking(context, stage as Step<never, never>);
    case 'standing':
      return standingConfirmed(context, stage as Step<never, never>);
    case 'run':
      return handlers.run(stage as Step<never, never>);
    default:
      return stage;
  }
}

/** The handler that asked is gone with its process. */
async function tellLost(services: Services, platform: Platform, { person, locale }: Question): Promise<void> {
  const { clock, delivery, log } = services;
  const body = inWords(services.languageOf(locale, undefined), 'ask.lost');
  try {
    const reply = { notice: { tone: 'info', body }, visibleTo: 'caller' } as const;
    await patiently(
      clock,
      promised(() => platform.tell?.({ kind: 'user', ...person }, reply)),
      delivery.platformPatienceMs,
    );
  } catch (error) {
    log.warn(
      { platform: platform.name, person: person.id, error },
      'Somebody was not told that their answer is not awaited any more',
    );
  }
}
