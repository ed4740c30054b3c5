/** A command's arguments, compiled for the readers. */
import { foldName } from '../base/text.js';
import { type Absent, type Arg, type ArgMap, holdsMembers, type WhenMissing } from '../commands/arg.js';
import type { Kind } from '../commands/kind.js';
import { type Reader, readerOf } from './reader.js';

export interface Slot {
  /** Where its value stands among all values. */
  readonly index: number;
  readonly name: string;
  readonly description: string | undefined;
  readonly kind: Kind<unknown>;
  readonly reader: Reader;
  readonly complete: Arg<unknown>['complete'];
  readonly example: Kind<unknown>['example'];
  readonly absent: Absent;
  readonly whenMissing: WhenMissing | undefined;
  readonly messages: Arg<unknown>['messages'];
  readonly question: Arg<unknown>['question'];
  readonly convert: Arg<unknown>['convert'];
  /** Its values are members whom `.map` makes something else of. */
  readonly mapsMembers: boolean;
}

export interface Flag {
  readonly slot: Slot;
  /** As it is told: `--dry-run`. */
  readonly spelling: string;
  /** Takes no value: `--quiet`, `--no-quiet`. */
  readonly isSwitch: boolean;
}

export interface Flags {
  readonly all: readonly Flag[];
  /** By `foldName` of what follows the dashes. */
  readonly byName: ReadonlyMap<string, Flag>;
  readonly byLetter: ReadonlyMap<string, Flag>;
}

export interface Slots {
  readonly all: readonly Slot[];
  readonly positional: readonly Slot[];
  /** Absent where no argument is a flag: then `--word` is text. */
  readonly flags: Flags | undefined;
  /** Those that take files that come along, where there are any. */
  readonly attached: readonly Slot[] | undefined;
}

export function compileSlots(args: ArgMap): Slots {
  const all = Object.entries(args).map(([name, arg], index): Slot & { arg: Arg<unknown> } => {
    const { kind, description, complete, example, absent, convert, whenMissing, messages, question } = arg;
    const mapsMembers = holdsMembers(arg) && (convert !== undefined || kind.item?.convert !== undefined);
    return {
      index,
      name,
      description,
      kind,
      reader: readerOf(kind),
      complete,
      example,
      absent,
      whenMissing,
      messages,
      question,
      convert,
      mapsMembers,
      arg,
    };
  });
  const flags = all.filter(({ arg }) => arg.flag !== undefined);
  const attached = all.filter(({ kind }) => kind.tokens === 'attached');
  return {
    all,
    positional: all.filter(({ arg, kind }) => arg.flag === undefined && kind.tokens !== 'attached'),
    flags: flags.length === 0 ? undefined : compileFlags(flags),
    attached: attached.length === 0 ? undefined : attached,
  };
}

function compileFlags(slots: readonly (Slot & { arg: Arg<unknown> })[]): Flags {
  const byName = new Map<string, Flag>();
  const byLetter = new Map<string, Flag>();
  const all = slots.map((slot): Flag => {
    const flag = { slot, spelling: `--${flagName(slot.name)}`, isSwitch: slot.kind.traits?.isSwitch === true };
    for (const name of [slot.name, flagName(slot.name)]) byName.set(foldName(name), flag);
    const { short } = slot.arg.flag ?? {};
    if (short !== undefined) byLetter.set(short, flag);
    return flag;
  });
  return { all, byName, byLetter };
}

/** `dryRun` is typed as `--dry-run`. */
export function flagName(name: string): string {
  return name.replace(/([\p{Ll}\p{N}])(\p{Lu})/gu, '$1-$2').toLowerCase();
}

/** The same slots, each with another kind, and perhaps something else about it. */
export function slotsWith(
  { all, positional, flags, attached }: Slots,
  change: (slot: Slot) => Partial<Slot> & Pick<Slot, 'kind'>,
): Slots {
  const changed = all.map((slot): Slot => {
    const parts = change(slot);
    return { ...slot, ...parts, reader: readerOf(parts.kind) };
  });
  const of = ({ index }: Slot) => changed[index] as Slot;
  const changedFlags = new Map(flags?.all.map((flag) => [flag, { ...flag, slot: of(flag.slot) }]));
  const named = ([name, flag]: [string, Flag]) => [name, changedFlags.get(flag) as Flag] as const;
  return {
    all: changed,
    positional: positional.map(of),
    attached: attached?.map(of),
    flags: flags && {
      all: [...changedFlags.values()],
      byName: new Map([...flags.byName].map(named)),
      byLetter: new Map([...flags.byLetter].map(named)),
    },
  };
}
