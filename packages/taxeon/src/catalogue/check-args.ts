/** What can be wrong with a command's arguments and with names. */
import type { Arg } from '../commands/arg.js';
import type { AnyDeclaration } from '../commands/command.js';
import { flagName } from '../reading/slots.js';

/** Tells one problem: the field of the declaration, and what is wrong and mends it. */
export type Tell = (field: string, problem: string) => void;

const LONGEST_NAME = 40;
const nameForm = /^[\p{L}\p{N}][\p{L}\p{M}\p{N}_-]*$/u;
/** JavaScript moves such property names in front of all others, out of the order in which they are typed. */
const integerLike = /^\d+$/;

export function checkName(field: string, name: unknown, tell: Tell): void {
  if (typeof name !== 'string' || !nameForm.test(name) || name.length > LONGEST_NAME) {
    tell(field, `${JSON.stringify(name)} is no name; use letters, digits, - and _, at most ${LONGEST_NAME}`);
  }
}

/** Whether an argument reads something that only a guild has. */
export function isGuildBound({ kind }: Arg<unknown>): boolean {
  return (kind.item?.kind ?? kind).traits?.ofGuild === true;
}

export function checkArgs({ args = {}, in: where }: AnyDeclaration, tell: Tell): void {
  const entries = Object.entries(args);
  for (const [name, arg] of entries) {
    checkArgName(`args.${name}`, name, tell);
    for (const problem of arg.problems) tell(`args.${name}`, problem);
    if (isGuildBound(arg) && where !== undefined && where !== 'guild') {
      tell('in', `is '${where}', but ${name} is a ${arg.type.replace(' in guild', '')} of a guild; leave \`in\` out`);
    }
  }
  checkPositional(
    entries.filter(([, { flag, kind }]) => flag === undefined && kind.tokens !== 'attached'),
    tell,
  );
  checkFlags(
    entries.filter(([, { flag }]) => flag !== undefined),
    tell,
  );
}

type Entries = readonly [name: string, arg: Arg<unknown>][];

function checkPositional(entries: Entries, tell: Tell): void {
  const hasTail = entries.at(-1)?.[1].kind.tokens === 'rest';
  const lastBeforeTail = entries.length - (hasTail ? 2 : 1);
  const lastName = entries.at(lastBeforeTail)?.[0];
  let optionalBefore: string | undefined;
  for (const [index, [name, arg]] of entries.entries()) {
    const field = `args.${name}`;
    const { tokens, shape } = arg.kind;
    if (tokens === 'rest' && index < entries.length - 1) {
      tell(field, 'takes all that is left of the line; move it to the end');
    }
    if (tokens === 'many' && index < lastBeforeTail) tell(field, `takes many words; move it behind ${lastName}`);
    if (tokens === 'many' && shape === undefined && hasTail) {
      tell(field, `takes any word, so nothing is left for ${entries.at(-1)?.[0]}; make one of them a flag`);
    }
    if (arg.absent.as === 'problem') {
      if (optionalBefore !== undefined) {
        tell(field, `is required but follows ${optionalBefore}, which is not; move it in front or make it optional`);
      }
      continue;
    }
    optionalBefore ??= name;
    if (shape === undefined && tokens !== 'rest' && index < lastBeforeTail) {
      tell(field, `may be left out, but any word fits it; move it behind ${lastName} or require it`);
    }
  }
}

function checkFlags(entries: Entries, tell: Tell): void {
  const spellings = new Map<string, string>();
  for (const [name, { kind, absent, flag }] of entries) {
    const field = `args.${name}`;
    if (absent.as === 'problem') tell(field, 'is a flag, so it may be left out; make it optional or give a default');
    if (kind.tokens === 'attached') tell(field, 'is a file, which is no flag; leave `flag` out');
    if (kind.tokens === 'rest') tell(field, 'takes all that is left of the line, which no flag can; make it a text');
    const short = flag?.short;
    if (short !== undefined && !/^\p{L}$/u.test(short)) tell(field, `has the short form "${short}"; give one letter`);
    for (const spelling of [`--${flagName(name)}`, ...(short === undefined ? [] : [`-${short}`])]) {
      const other = spellings.get(spelling);
      if (other !== undefined) tell(field, `is typed as ${spelling}, and so is ${other}; change one`);
      spellings.set(spelling, name);
    }
  }
}

function checkArgName(field: string, name: string, tell: Tell): void {
  if (integerLike.test(name)) tell(field, 'looks like a number, which would change the order; begin with a letter');
  else if (name === '__proto__') tell(field, 'is a name that JavaScript keeps for itself; choose another');
  else checkName(field, name, tell);
}
