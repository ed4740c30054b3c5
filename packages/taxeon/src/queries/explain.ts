/** What the layer would do with an input, for people who build or run the bot. */

import { isUnfindable, lookUpsOf } from '../commands/arg.js';
import type { Actor } from '../contract/actors.js';
import type { Code, Coded, Missing } from '../contract/codes.js';
import { emptyDirectory, unknownRights } from '../contract/empty-directory.js';
import type { Input } from '../contract/input.js';
import type { Ignored, Status } from '../contract/outcome.js';
import type { Directory, Platform } from '../contract/platform.js';
import type { ReadToken, StageName, TracedStage } from '../contract/trace.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { insideOf } from '../layer/inside.js';
import { inputProblem } from '../pipeline/intake.js';
import { hear, pass } from '../pipeline/runner.js';
import type { Course } from '../pipeline/stage.js';
import { lookingAt } from '../pipeline/stages.js';
import { argsOf, commandOf, heardOf, type State, type Stopped } from '../pipeline/state.js';
import { codeOf, type Stop } from '../pipeline/stop.js';
import { type OwnWords, replyTo } from '../pipeline/wording.js';
import type { Slot } from '../reading/slots.js';
import { plainText } from '../replies/notice.js';

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
  const { course, needs } = insideOf(layer);
  const looking = lookingAt(course, true);
  if (inputProblem(input, platform) !== undefined) return explainIgnored(looking, 'malformed');
  const hearing = await hear(looking, input, platform);
  if (hearing === 'chat') return { ...explainIgnored(looking, hearing), meant: await meantBy(layer, input, platform) };
  if (typeof hearing === 'string') return explainIgnored(looking, hearing);
  const last = (await pass(looking, hearing)) as State | Stopped;
  return last.at === 'stopped' ? stoppedBy(looking, last, needs.reply.words) : runs(looking, last);
}

/** What the line would be as a command, where there is one of that name. */
async function meantBy(layer: CommandLayer, input: Input, platform: Platform | undefined): Promise<string | null> {
  const { guilds, addressing } = insideOf(layer);
  const { place, text = '' } = input;
  const snapshot = place.kind === 'guild' ? await guilds.read(platform?.name ?? '', place.guild.id) : undefined;
  const { written } = snapshot?.prefixes ?? addressing.prefixes;
  if (written === '' || text.startsWith(written)) return null;
  const meant = written + text.trimStart();
  const { command } = await explain(layer, { ...input, text: meant }, platform);
  return command === null ? null : meant;
}

function runs(course: Course, state: State): Explanation {
  heardOf(state).recorder?.passed('run', () => 'the handler would run');
  return { ...explainedStages(course, state), status: 'runs', stoppedAt: null, code: null, message: null };
}

function stoppedBy(course: Course, { state, stop }: Stopped, words: OwnWords): Explanation {
  const base = explainedStages(course, state);
  if (stop.status === 'completed') return { ...base, status: 'runs', stoppedAt: null, code: null, message: null };
  const reply = replyTo(state, stop, words);
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

const whyIgnored: Readonly<Record<Ignored['because'], readonly [StageName, string]>> = {
  bot: ['intake', 'the bot does not answer bots'],
  chat: ['match', 'ordinary chat: no prefix that holds here, or no name behind it'],
  repeated: ['match', 'this event was handled before'],
  malformed: ['intake', 'the platform gave what is no input'],
  answer: ['match', 'a handler asked for it'],
};

function explainIgnored(course: Course, because: Ignored['because']): Explanation {
  const [stoppedAt, reason] = whyIgnored[because];
  const nothing = { command: null, args: null, code: null, message: null, meant: null, tokens: [] };
  return { ...nothing, status: 'ignored', stoppedAt, stages: stagesUpTo(course, stoppedAt, reason) };
}

function stagesUpTo({ order }: Course, last: StageName, reason: string): readonly TracedStage[] {
  const at = order.names.indexOf(last);
  return order.names.map((name, index): TracedStage => {
    if (index === at) return { name, verdict: 'stopped', reason, tookMs: 0 };
    return { name, verdict: index < at ? 'passed' : 'skipped', reason: '', tookMs: 0 };
  });
}

/** Command, arguments and all stages: those that were not reached are skipped. */
function explainedStages({ order }: Course, state: State) {
  const { stages = [], tokens = [] } = heardOf(state).recorder?.trace() ?? {};
  const reached = new Set(stages.map(({ name }) => name));
  const rest = order.names
    .filter((name) => !reached.has(name))
    .map((name): TracedStage => ({ name, verdict: 'skipped', reason: '', tookMs: 0 }));
  const read = { command: commandOf(state)?.name ?? null, args: argsOf(state) ?? null, meant: null };
  return { ...read, tokens, stages: [...stages, ...rest] };
}

// Why something could not be decided: the platform does not tell what it takes, or has no look-up for it.
/** For the bot's developer; `undefined` where the platform has told all that it takes. */
function whyUndecided(state: State, stop: Stop): string | undefined {
  if (stop.status !== 'refused' && stop.status !== 'invalid') return undefined;
  if (stop.status === 'refused' && stop.by === 'handler') return undefined;
  const { caller, platform } = heardOf(state);
  const slots = 'command' in state ? state.command.slots.all : [];
  return platform === undefined ? undefined : reasonFor(stop as Coded<Code>, caller, platform, slots);
}

function reasonFor(coded: Coded<Code>, caller: Actor, platform: Platform, slots: readonly Slot[]): string | undefined {
  switch (coded.code) {
    case 'permission.caller': {
      const [missing] = coded.parameters.missing;
      return untoldOf(caller, missing && fields[missing.what], platform);
    }
    case 'permission.bot':
      return lacking(platform, 'self');
    case 'permission.rank':
      if (coded.parameters.because !== 'unknown') return undefined;
      return coded.parameters.of === 'bot' ? lacking(platform, 'self') : untoldOf(caller, 'rank', platform);
    case 'permission.target':
      return coded.parameters.because === 'unknown' ? lacking(platform, 'self') : undefined;
    case 'command.unavailable':
      return coded.parameters.because === 'look-up' ? noWay(slots, platform) : undefined;
    default:
      return undefined;
  }
}

function noWay(slots: readonly Slot[], { name, directory }: Platform): string | undefined {
  const slot = slots.find((one) => isUnfindable(one, directory));
  const lookUps = slot && lookUpsOf(slot);
  return lookUps && `the directory of ${name} has no ${lookUps.map((one) => `\`${one}\``).join(' and no ')}`;
}

/** What of a caller decides whether they have it. */
const fields: Readonly<Record<Missing['what'], keyof typeof what | undefined>> = {
  permission: 'permissions',
  role: 'roles',
  ownership: undefined,
};

const what = { permissions: 'what the caller may do', roles: 'the caller’s roles', rank: 'the caller’s rank' } as const;

function untoldOf(caller: Actor, field: keyof typeof what | undefined, { name }: Platform): string | undefined {
  if (field === undefined || caller.kind !== 'member' || caller[field] !== unknownRights[field]) return undefined;
  return `${name} does not tell ${what[field]}`;
}

function lacking({ name, directory }: Platform, lookUp: keyof Directory): string | undefined {
  return directory[lookUp] === emptyDirectory[lookUp] ? `the directory of ${name} has no \`${lookUp}\`` : undefined;
}
