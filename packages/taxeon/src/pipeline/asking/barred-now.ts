/** Whether the person who answers may still go on with the call that asked: reach, access and standing of this moment. */
import type { CompiledSettings } from '../../access/rules.js';
import { andThen, type MaybePromise } from '../../base/thenable.js';
import type { Member } from '../../contract/actors.js';
import type { Input } from '../../contract/input.js';
import { check } from '../runner.js';
import type { Course } from '../stage.js';
import { anew, type Heard, type Read, type State, type Stopped } from '../state.js';
import type { FailedStop, RefusedStop } from '../stop.js';

/** The stages that say who may run what, here and now. */
const deciding = ['reach', 'access', 'standing'] as const;

/**
 * Why the caller of an answer may not go on with the call that asked; `undefined` where they may.
 *
 * @param settings of the guild, as they were read when the answer was let in
 */
export function barredNow(
  course: Course,
  state: Read,
  input: Input,
  settings: CompiledSettings,
): MaybePromise<RefusedStop | FailedStop | undefined> {
  return andThen(asOfNow(course, state, input, settings), (next: Read) => {
    const checked = check(course, next, deciding);
    return andThen(checked, barredBy);
  });
}

function barredBy(checked: State | Stopped): RefusedStop | FailedStop | undefined {
  return checked.at === 'stopped' ? (checked.stop as RefusedStop | FailedStop) : undefined;
}

/** The call as it would be now: who answers, what holds in the guild, and how those stand whom it is about. */
function asOfNow({ basis }: Course, state: Read, { caller }: Input, settings: CompiledSettings): MaybePromise<Read> {
  const { args, named } = state;
  // What is asked for here was answered, and nothing of this is part of the call's trace.
  const heard = anew(state.heard, { caller, settings, now: basis.clock.now(), looks: true, asking: undefined });
  if (!Object.values(named).some(isAboutMembers)) return { ...state, heard };
  return Promise.all([membersNow(heard, args), membersNow(heard, named)]).then(([args, named]) => ({
    ...state,
    heard,
    args,
    named,
  }));
}

type ArgumentValues = Readonly<Record<string, unknown>>;

async function membersNow(heard: Heard, values: ArgumentValues): Promise<ArgumentValues> {
  const now = async (value: unknown): Promise<unknown> => {
    if (Array.isArray(value)) return Promise.all(value.map(now));
    return isMember(value) ? memberNow(heard, value) : value;
  };
  const entries = Object.entries(values).map(async ([name, value]) => [name, await now(value)] as const);
  return Object.fromEntries(await Promise.all(entries));
}

/** Of a person who cannot be looked up any more, no rank is known: nobody ranks above that. */
async function memberNow({ guild, platform }: Heard, member: Member): Promise<Member> {
  const found = guild === undefined ? undefined : await platform?.directory.member(guild, member.id);
  return found ?? { ...member, rank: undefined };
}

function isAboutMembers(value: unknown): boolean {
  return Array.isArray(value) ? value.some(isMember) : isMember(value);
}

function isMember(value: unknown): value is Member {
  return Object(value).kind === 'member';
}
