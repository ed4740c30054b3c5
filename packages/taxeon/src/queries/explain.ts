/** What the layer would do with an input, for people who build or run the bot. */
import type { Ignored, Status } from '../contract/outcome.js';
import { type ReadToken, type StageName, stageNames, type TracedStage } from '../contract/trace.js';
import type { Run } from '../pipeline/run-object.js';
import type { Stop } from '../pipeline/stages.js';
import { replyTo } from '../pipeline/wording.js';
import { plainText } from '../replies/notice.js';

export interface Explanation {
  /** `runs` where the handler would run; otherwise the status the outcome would have. */
  readonly status: 'runs' | Exclude<Status, 'completed'>;
  /** The base name, whichever alias was typed; null where none was found. */
  readonly command: string | null;
  /** The typed arguments, where reading got that far. */
  readonly args: Readonly<Record<string, unknown>> | null;
  /** The stage that stops the input, or null where the handler would run. */
  readonly stoppedAt: StageName | null;
  readonly code: string | null;
  /** What the caller would read, or null where nothing would be said. */
  readonly message: string | null;
  readonly stages: readonly TracedStage[];
  readonly tokens: readonly ReadToken[];
}

export function explainStop(run: Run, stop: Stop): Explanation {
  const { stages = [], tokens = [] } = run.recorder?.trace() ?? {};
  const base = { command: run.found?.name ?? null, args: run.hasArgs ? run.args : null, tokens };
  if (stop.status === 'runs' || stop.status === 'completed') {
    return { ...base, status: 'runs', stoppedAt: null, code: null, message: null, stages: inFull(stages) };
  }
  const reply = replyTo(run, stop);
  return {
    ...base,
    status: stop.status,
    stoppedAt: stages.find(({ verdict }) => verdict === 'stopped')?.name ?? null,
    code: codeOf(stop),
    message: reply === undefined ? null : plainText(reply.notice),
    stages: inFull(stages),
  };
}

const whyIgnored: Readonly<Record<Ignored['because'], readonly [StageName, string]>> = {
  bot: ['intake', 'the bot does not answer bots'],
  chat: ['match', 'ordinary chat: no prefix that holds here, or no name behind it'],
  repeated: ['match', 'this event was handled before'],
};

export function ignoredExplanation(because: Ignored['because']): Explanation {
  const [stoppedAt, reason] = whyIgnored[because];
  const at = stageNames.indexOf(stoppedAt);
  const stages = stageNames.slice(0, at + 1).map((name): TracedStage => {
    const stopped = name === stoppedAt;
    return { name, verdict: stopped ? 'stopped' : 'passed', reason: stopped ? reason : '', tookMs: 0 };
  });
  const nothing = { command: null, args: null, code: null, message: null, tokens: [] };
  return { ...nothing, status: 'ignored', stoppedAt, stages: inFull(stages) };
}

function codeOf(stop: Exclude<Stop, { status: 'runs' | 'completed' }>): string {
  if (stop.status === 'invalid') return stop.problems[0].code;
  return stop.status === 'refused' && stop.by === 'handler' ? stop.refusal.code : stop.code;
}

/** All eleven stages: those that were not reached are skipped. */
function inFull(stages: readonly TracedStage[]): readonly TracedStage[] {
  const reached = new Set(stages.map(({ name }) => name));
  const rest = stageNames
    .filter((name) => !reached.has(name))
    .map((name): TracedStage => ({ name, verdict: 'skipped', reason: '', tookMs: 0 }));
  return [...stages, ...rest];
}
