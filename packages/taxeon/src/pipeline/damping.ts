/** Damping of refusals on text: the bot does not answer spam with spam. */

import type { ParsedAllowance } from '../base/allowance.js';
import { BoundedMap, foundOrMade } from '../base/bounded-map.js';
import type { Clock } from '../base/time.js';
import { firstLive } from '../limits/window.js';

/** People in places; who was refused longest ago may be told anew. */
const MOST_REMEMBERED = 10_000;
/** Refusals, and cooldowns, of one person in a place; the oldest may be told anew. */
const MOST_OF_A_PERSON = 20;

/** Or that it is to be said that no more will be said, for so many milliseconds. */
export type DampingVerdict = 'say' | 'silent' | { readonly quietMs: number };

interface Budgets {
  /** Of the same refusal: code, command and argument, whatever the value. */
  readonly repeats: ParsedAllowance;
  /** Of all refusals, so that varied nonsense is not answered for ever. */
  readonly all: ParsedAllowance;
}

/** What a person was refused. */
export interface DampedRefusal {
  readonly code: string;
  /** The id of the command, where one was found. */
  readonly command: string | undefined;
  readonly argument: string | undefined;
  /** Whom the cooldown counts, where it is one. */
  readonly counts: string | undefined;
}

/** What one person was told in one place. */
interface ToldPerson {
  /** When something was said again, and when anything was, oldest first. */
  repeats: readonly number[];
  all: readonly number[];
  /** When each refusal was last met, as long as that counts. */
  met: readonly RefusalMet[];
  /** Cooldowns that were told, until they end. */
  cooldowns: readonly RefusalMet[];
  /** Until when nothing is said of what was said before, and of anything. */
  quietUntil: number;
  silentUntil: number;
}

interface RefusalMet {
  readonly refused: DampedRefusal;
  /** When it was met, or until when the cooldown runs. */
  readonly at: number;
}

export interface Damping {
  /** Who has this permission is always answered, as the bot's owners are. */
  readonly always: string | undefined;
  /**
   * What is said of a refusal; what is said counts.
   *
   * @param person and where
   */
  judge(person: string, refused: DampedRefusal): DampingVerdict;
  /** Once it was delivered, a cooldown is told no more until it ends. */
  delivered(person: string, refused: DampedRefusal, endsInMs: number): void;
  /** Whether nothing is said of a refusal; nothing counts. */
  isSilent(person: string, refused: DampedRefusal): boolean;
}

/** @param clock must not go back */
export function dampingWith({ repeats, all }: Budgets, clock: Clock, always: string | undefined): Damping {
  const persons = new BoundedMap<string, ToldPerson>(MOST_REMEMBERED);

  const toldTo = (person: string) => foundOrMade(persons, person, nothingTold);

  return {
    always,
    /** Hot path: bench/rows/calls. */
    judge(person, refused) {
      const now = clock.now();
      const told = toldTo(person);
      if (told.silentUntil > now || isCooldownTold(told, refused, now)) return 'silent';
      const isRepeat = meetRefusal(told, refused, now, repeats.windowMs);
      if (isRepeat && told.quietUntil > now) return 'silent';
      if (isSpent(told.all, all, now)) {
        told.silentUntil = now + all.windowMs;
        return { quietMs: all.windowMs };
      }
      if (isRepeat && isSpent(told.repeats, repeats, now)) {
        told.quietUntil = now + repeats.windowMs;
        return { quietMs: repeats.windowMs };
      }
      told.all = withTime(told.all, all, now);
      if (isRepeat) told.repeats = withTime(told.repeats, repeats, now);
      return 'say';
    },
    delivered(person, refused, endsInMs) {
      const told = toldTo(person);
      const now = clock.now();
      const others = told.cooldowns.filter((one) => one.at > now && !isSameCooldown(one.refused, refused));
      told.cooldowns = withLatest(others, { refused, at: now + endsInMs });
    },
    isSilent(person, refused) {
      const now = clock.now();
      const told = persons.get(person);
      if (told === undefined) return false;
      return (
        told.silentUntil > now || (told.quietUntil > now && told.met.some((one) => isSameRefusal(one.refused, refused)))
      );
    },
  };
}

/** Shared, since most people are refused once. */
const never: readonly never[] = [];
const EVER_BEFORE = Number.NEGATIVE_INFINITY;

function nothingTold(): ToldPerson {
  return {
    repeats: never,
    all: never,
    met: never,
    cooldowns: never,
    quietUntil: EVER_BEFORE,
    silentUntil: EVER_BEFORE,
  };
}

function isSameRefusal(one: DampedRefusal, other: DampedRefusal): boolean {
  return one.code === other.code && one.command === other.command && one.argument === other.argument;
}

function isSameCooldown(one: DampedRefusal, other: DampedRefusal): boolean {
  return one.counts === other.counts && isSameRefusal(one, other);
}

function isCooldownTold({ cooldowns }: ToldPerson, refused: DampedRefusal, now: number): boolean {
  return refused.counts !== undefined && cooldowns.some((one) => one.at > now && isSameCooldown(one.refused, refused));
}

/** Whether the same was met a while before; it is met now. */
function meetRefusal(told: ToldPerson, refused: DampedRefusal, now: number, windowMs: number): boolean {
  const counting = told.met.filter(({ at }) => at > now - windowMs);
  const others = counting.filter((one) => !isSameRefusal(one.refused, refused));
  told.met = withLatest(others, { refused, at: now });
  return others.length < counting.length;
}

function withLatest(others: readonly RefusalMet[], latest: RefusalMet): readonly RefusalMet[] {
  return [...others.slice(1 - MOST_OF_A_PERSON), latest];
}

function isSpent(times: readonly number[], { uses, windowMs }: ParsedAllowance, now: number): boolean {
  return times.length - firstLive(times, now, windowMs) >= uses;
}

/** Those that count no more are let go. */
function withTime(times: readonly number[], { windowMs }: ParsedAllowance, now: number): readonly number[] {
  return [...times.slice(firstLive(times, now, windowMs)), now];
}
