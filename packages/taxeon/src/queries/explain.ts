/** What the layer would do with an input, for people who build or run the bot. */
import { isThenable } from '../base/thenable.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Status } from '../contract/outcome.js';
import type { Platform } from '../contract/platform.js';
import type { ReadToken, StageName, TracedStage } from '../contract/trace.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { advance, hear } from '../pipeline/advance.js';
import { begin } from '../pipeline/begin.js';
import { inputProblem } from '../pipeline/check-input.js';
import type { Pipeline } from '../pipeline/stages.js';
import { argsOf, commandOf, heardOf, type State } from '../pipeline/state.js';
import { codeOf, type RefusedStop, type Stop } from '../pipeline/stop.js';
import { replyTo, stopInWords } from '../pipeline/wording.js';
import { plainText } from '../replies/notice.js';
import { whyUndecided } from './untold.js';

/** What a line would do, and why. */
export interface Explanation {
  /** `runs` where the handler would run, or `onUnknown`; otherwise the status the outcome would have. */
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
  /** The line with the prefix that holds here, where it is chat only for want of it: `!borrow drill`. */
  readonly meant: string | null;
  readonly stages: readonly TracedStage[];
  readonly tokens: readonly ReadToken[];
}

/**
 * What `layer.handle` would do: the same stages with the handler left out. Says nothing, uses up no limit, remembers
 * no event id, damps nothing.
 *
 * @example
 * const { status, stoppedAt, message } = await explain(layer, input, platform);
 */
export async function explain(layer: CommandLayer, input: Input, platform?: Platform): Promise<Explanation> {
  const { services, pipeline } = insideOf(layer);
  if (inputProblem(input, platform) !== undefined) return ignored(pipeline, 'malformed');
  const hearing = hear(pipeline.gates, services, input, platform, true);
  const heard = isThenable(hearing) ? await hearing : hearing;
  if (heard === 'chat') return { ...ignored(pipeline, heard), meant: await meantBy(layer, input, platform) };
  if (typeof heard === 'string') return ignored(pipeline, heard);
  const from = typeof heard === 'number' || heard.status === 'answering' ? heard : 0;
  const { input: read, nameAt } = typeof from === 'number' ? { input, nameAt: from } : from;
  const begun = begin(pipeline, services, read, platform, nameAt, { looks: true, trace: true });
  if (from !== heard) return atGate(pipeline, begun, heard as RefusedStop);
  return advance(pipeline.stepsBeforeRun, begun, (state, stop) => {
    if (stop !== undefined) return stoppedBy(pipeline, state, stop);
    begun.recorder?.passed('run', () => 'the handler would run');
    return { ...told(pipeline, state), status: 'runs', stoppedAt: null, code: null, message: null };
  });
}

/** What the line would be as a command, where there is one of that name. */
async function meantBy(layer: CommandLayer, input: Input, platform: Platform | undefined): Promise<string | null> {
  const { services } = insideOf(layer);
  const { place, text = '' } = input;
  const snapshot =
    place.kind === 'guild' ? await services.guilds.read(platform?.name ?? '', place.guild.id) : undefined;
  const { written } = snapshot?.prefixes ?? services.prefixes;
  if (written === '' || text.startsWith(written)) return null;
  const meant = written + text.trimStart();
  const { command } = await explain(layer, { ...input, text: meant }, platform);
  return command === null ? null : meant;
}

function stoppedBy(pipeline: Pipeline, state: State, stop: Stop): Explanation {
  const base = told(pipeline, state);
  if (stop.status === 'completed') return { ...base, status: 'runs', stoppedAt: null, code: null, message: null };
  const reply = replyTo(state, stop);
  const why = whyUndecided(state, stop);
  return {
    ...base,
    stages: why === undefined ? base.stages : base.stages.map((stage) => because(stage, why)),
    status: stop.status,
    stoppedAt: base.stages.find(({ verdict }) => verdict === 'stopped')?.name ?? null,
    code: codeOf(stop) ?? null,
    message: reply === undefined ? null : plainText(reply.notice),
  };
}

/** What the platform does not tell stands beside what it leads to. */
function because(stage: TracedStage, why: string): TracedStage {
  return stage.verdict === 'stopped' ? { ...stage, reason: `${stage.reason} (${why})` } : stage;
}

/** The second gate refuses: nothing behind it was reached. */
function atGate(pipeline: Pipeline, state: State, stop: Stop): Explanation {
  const reply = replyTo(state, stop);
  const name = pipeline.gates.at(-1)?.name ?? 'match';
  return {
    command: null,
    args: null,
    meant: null,
    tokens: [],
    status: stop.status === 'completed' ? 'runs' : stop.status,
    stoppedAt: name,
    code: codeOf(stop) ?? null,
    message: reply === undefined ? null : plainText(reply.notice),
    stages: stagesUpTo(pipeline, name, stopInWords(state, stop)),
  };
}

const whyIgnored: Readonly<Record<Ignored['because'], readonly [StageName, string]>> = {
  bot: ['intake', 'the bot does not answer bots'],
  chat: ['match', 'ordinary chat: no prefix that holds here, or no name behind it'],
  repeated: ['match', 'this event was handled before'],
  malformed: ['intake', 'the platform gave what is no input'],
  answer: ['match', 'a handler asked for it'],
};

function ignored(pipeline: Pipeline, because: Ignored['because']): Explanation {
  const [stoppedAt, reason] = whyIgnored[because];
  const nothing = { command: null, args: null, code: null, message: null, meant: null, tokens: [] };
  return { ...nothing, status: 'ignored', stoppedAt, stages: stagesUpTo(pipeline, stoppedAt, reason) };
}

function stagesUpTo({ order }: Pipeline, last: StageName, reason: string): readonly TracedStage[] {
  const at = order.names.indexOf(last);
  return order.names.map((name, index): TracedStage => {
    if (index === at) return { name, verdict: 'stopped', reason, tookMs: 0 };
    return { name, verdict: index < at ? 'passed' : 'skipped', reason: '', tookMs: 0 };
  });
}

/** Command, arguments and all stages: those that were not reached are skipped. */
function told({ order }: Pipeline, state: State) {
  const { stages = [], tokens = [] } = heardOf(state).recorder?.trace() ?? {};
  const reached = new Set(stages.map(({ name }) => name));
  const rest = order.names
    .filter((name) => !reached.has(name))
    .map((name): TracedStage => ({ name, verdict: 'skipped', reason: '', tookMs: 0 }));
  const read = { command: commandOf(state)?.name ?? null, args: argsOf(state) ?? null, meant: null };
  return { ...read, tokens, stages: [...stages, ...rest] };
}
