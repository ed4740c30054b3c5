/** What a tryout may hold, and telling where one does not read. */
import { forms, nearNames } from 'taxeon/platform';
import * as v from 'valibot';

const text = v.string('give a text');
const flag = v.boolean('give true or false');

const duration = v.pipe(
  text,
  v.check((value) => forms.duration(value) === undefined, 'give a duration such as 2m'),
);

/** Beyond that, a pattern is none that a person would read. */
const LONGEST_PATTERN = 300;

const pattern = v.pipe(
  text,
  v.maxLength(LONGEST_PATTERN, `give a pattern of at most ${LONGEST_PATTERN} characters`),
  v.check(isPattern, 'give a pattern that reads, as in regular expressions'),
);

function isPattern(source: string): boolean {
  try {
    new RegExp(source, 'u');
    return true;
  } catch {
    return false;
  }
}

/** One message of the bot's. */
const reply = v.strictObject({
  /** A part of it. */
  says: v.optional(text),
  /** All of it. */
  exactly: v.optional(text),
  begins: v.optional(text),
  /** A regular expression. */
  matches: v.optional(pattern),
  /** `everyone`, or the id of the person who alone sees it. */
  to: v.optional(text),
  /** `oddmere/counter`, `direct` or `console`; where the line was said by default. */
  in: v.optional(text),
  /** A part of what it was before it was edited. */
  shows: v.optional(text),
  /** Whether it was held before it was given. */
  held: v.optional(flag),
  /** After how long it goes again. */
  goesAfter: v.optional(v.union([v.literal('never'), duration], 'give a duration such as 2m, or never')),
});

const seen = {
  /** All messages of the bot's, in their order. */
  replies: v.optional(v.array(reply, 'give a list of replies')),
  /** What the configuration tells under these names, as data. */
  state: v.optional(v.record(text, v.unknown())),
};

const expectation = v.strictObject({
  status: v.picklist(
    ['completed', 'refused', 'invalid', 'waiting', 'failed', 'ignored'],
    'give a status such as completed',
  ),
  code: v.optional(text),
  /** The argument that is asked for, or a part of the question that wants a yes. */
  asks: v.optional(text),
  /** A part of what the bot says. */
  says: v.optional(text),
  seenBy: v.optional(v.picklist(['everyone', 'caller', 'nobody'], 'give everyone, caller or nobody')),
  /** A part of what is shown before the reply, while the handler is at work. */
  shows: v.optional(text),
  /** Whether the reply was held before it was given. */
  held: v.optional(flag),
  /** After how long the reply goes again. */
  goesAfter: v.optional(duration),
  /** Who is told something by direct message, by id. */
  tells: v.optional(text),
  /** A part of what the log says under the reference that the reply tells. */
  logs: v.optional(text),
  ...seen,
});

const file = v.strictObject({ name: text, type: text, content: v.optional(text, '') });

/** `locale` is the language that the person's own client tells, `id` the event's. */
const saying = {
  person: v.optional(text),
  place: text,
  locale: v.optional(text),
  id: v.optional(text),
  expect: expectation,
};

const lines = {
  scene: v.strictObject({ scene: text }),
  /** Something that the configuration knows by these words. */
  happens: v.strictObject({ happens: text }),
  /** The platform does not do something: `deliver`, `edit`, `directory.member` … */
  fails: v.strictObject({
    fails: text,
    as: v.picklist(
      ['forbidden', 'gone', 'unreachable', 'slowed', 'failed', 'hanging', 'working'],
      'give forbidden, gone, unreachable, slowed, failed or hanging; or working, which ends it',
    ),
    /** How often; until the end where it is absent. */
    times: v.optional(
      v.pipe(v.number('give a number'), v.integer('give a whole number'), v.minValue(1, 'give at least 1')),
    ),
  }),
  /** What the bot says meanwhile. */
  wait: v.strictObject({ wait: duration, says: v.optional(text), ...seen }),
  types: v.strictObject({
    ...saying,
    types: text,
    surface: v.optional(v.literal('console', 'give console')),
    files: v.optional(v.array(file, 'give a list of files')),
    /** The id of the message that is changed to this. */
    edits: v.optional(text),
  }),
  invokes: v.strictObject({
    ...saying,
    invokes: text,
    options: v.optional(v.record(text, v.unknown()), {}),
    /** By the options that they are of. */
    files: v.optional(v.record(text, file)),
  }),
  fills: v.strictObject({ ...saying, fills: v.record(text, text) }),
};

const kinds = Object.keys(lines) as (keyof typeof lines)[];
const oneOf = 'a line is one of: scene; happens; fails; wait; place and expect, with types, invokes or fills';
const anyLine = v.union(
  [lines.scene, lines.happens, lines.fails, lines.wait, lines.types, lines.invokes, lines.fills],
  oneOf,
);

const head = { tryout: text, begins: v.pipe(text, v.isoTimestamp('give a moment such as 2026-05-09T13:00:00Z')) };

/** Which keys a line has says what it is, so that its problems are told and not those of all others. */
const line = v.lazy((given): v.GenericSchema<unknown, v.InferOutput<typeof anyLine>> => {
  const kind = typeof given === 'object' && given !== null ? kinds.find((one) => one in given) : undefined;
  return kind === undefined ? anyLine : (lines[kind] as never);
});

const tryout = v.strictObject({ ...head, lines: v.array(line, 'give a list of lines') });

/** The same for a description of the format, without the choice by keys. */
export const tryoutSchema = v.strictObject({ ...head, lines: v.array(anyLine) });

/** A scripted conversation, as data. */
export type Tryout = v.InferOutput<typeof tryout>;
/** A line of a tryout. */
export type TryoutLine = Tryout['lines'][number];
/** A line that a person says, with what is expected of it. */
export type SpokenLine = Extract<TryoutLine, { expect: unknown }>;
/** One message that a tryout expects. */
export type ExpectedReply = v.InferOutput<typeof reply>;

/** What is wrong with a tryout, and where. */
export interface TryoutProblem {
  /** Where it is: `['lines', 3, 'expect', 'says']`. */
  readonly path: readonly (string | number)[];
  /** What is wrong and what mends it. */
  readonly problem: string;
}

/** A tryout that does not read, with every problem and where it is. */
export class TryoutError extends Error {
  override readonly name = 'TryoutError';

  constructor(readonly problems: readonly TryoutProblem[]) {
    const told = problems.map(({ path, problem }) => `${path.join('.') || 'the whole'}: ${problem}`);
    super(`The tryout is wrong: ${told.join('; ')}`);
  }
}

/**
 * Checks data that came from a file.
 *
 * @throws TryoutError naming each problem and where it is.
 *
 * @example
 * import { parse } from 'yaml';
 *
 * const read = checkTryout(parse(text));
 */
export function checkTryout(data: unknown): Tryout {
  const parsed = v.safeParse(tryout, data);
  if (parsed.success) return parsed.output;
  throw new TryoutError(
    parsed.issues.map((issue) => {
      const path = (issue.path ?? []).map(({ key }) => key as string | number);
      return { path, problem: issueProblem(issue, path) };
    }),
  );
}

/** All keys that there are anywhere, for the one that was meant. */
const keys = [
  ...Object.keys(head),
  'lines',
  ...Object.values(lines).flatMap(({ entries }) => Object.keys(entries)),
  ...Object.keys(expectation.entries),
  ...Object.keys(reply.entries),
  ...Object.keys(file.entries),
];

function issueProblem(issue: v.BaseIssue<unknown>, path: readonly (string | number)[]): string {
  if (issue.type !== 'strict_object') return issue.message;
  const key = String(path.at(-1) ?? '');
  if (issue.expected === 'Object') return 'give keys with values';
  if (issue.expected !== 'never') return `is missing; ${missing(key)}`;
  const [near] = nearNames(key, new Set(keys));
  return near === undefined ? 'there is no such key; leave it out' : `there is no such key; write ${near}`;
}

function missing(key: string): string {
  return key === 'expect' ? 'say what is expected: { status: completed }' : 'add it';
}
