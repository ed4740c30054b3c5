/** Damping of refusals on text: the bot does not answer spam with spam. */
import { BoundedMap } from '../base/bounded-map.js';
import type { Clock } from '../base/time.js';
import type { ParsedAllowance } from '../commands/cooldowns.js';
import { firstLive, grantedFrom } from '../limits/window.js';

/** People in places, what they were told, and cooldowns of theirs; who was refused longest ago may be told anew. */
const MOST_REMEMBERED = 10_000;

/** Or that it is to be said that no more will be said, for so many milliseconds. */
export type Verdict = 'say' | 'silent' | { readonly quietMs: number };

interface Budgets {
  /** Of the same refusal: code, command and argument, whatever the value. */
  readonly repeats: ParsedAllowance;
  /** Of all refusals, so that varied nonsense is not answered for ever. */
  readonly all: ParsedAllowance;
}

/** Who was refused what. */
export interface Refused {
  /** And where. */
  readonly person: string;
  /** Code, command and argument. */
  readonly refusal: string;
  /** Whose cooldown it is, where it is one. */
  readonly cooldown: string | undefined;
}

/** What one person was told in one place. */
interface Told {
  readonly repeats: readonly number[];
  readonly all: readonly number[];
  /** Until when nothing is said of what was said before, and of anything. */
  readonly quietUntil: number;
  readonly silentUntil: number;
}

const nothingYet: Told = {
  repeats: [],
  all: [],
  quietUntil: Number.NEGATIVE_INFINITY,
  silentUntil: Number.NEGATIVE_INFINITY,
};

export class Damping {
  private readonly told = new BoundedMap<string, Told>(MOST_REMEMBERED);
  /** When each refusal was last told. */
  private readonly last = new BoundedMap<string, number>(MOST_REMEMBERED);
  /** Cooldowns that somebody was told of, until they end. */
  private readonly cooldowns = new BoundedMap<string, number>(MOST_REMEMBERED);

  /** @param clock must not go back */
  constructor(
    private readonly budgets: Budgets,
    private readonly clock: Clock,
    /** Whoever has this permission is always answered, as the bot's owners are. */
    readonly always: string | undefined,
  ) {}

  /** What is said of a refusal; what is said counts. */
  judge({ person, refusal, cooldown }: Refused): Verdict {
    const now = this.clock.now();
    if (cooldown !== undefined && (this.cooldowns.get(cooldown) ?? now) > now) return 'silent';
    const told = this.told.get(person) ?? nothingYet;
    if (told.silentUntil > now) return 'silent';
    const { repeats, all } = this.budgets;
    const isRepeat = this.isRepeat(`${person} ${refusal}`, now);
    if (isRepeat && told.quietUntil > now) return 'silent';
    if (isSpent(told.all, all, now)) {
      this.told.set(person, { ...told, silentUntil: now + all.windowMs });
      return { quietMs: all.windowMs };
    }
    if (isRepeat && isSpent(told.repeats, repeats, now)) {
      this.told.set(person, { ...told, quietUntil: now + repeats.windowMs });
      return { quietMs: repeats.windowMs };
    }
    this.told.set(person, {
      ...told,
      all: withTime(told.all, all, now),
      repeats: isRepeat ? withTime(told.repeats, repeats, now) : told.repeats,
    });
    return 'say';
  }

  /** Once it was delivered, a cooldown is told no more until it ends. */
  delivered(cooldown: string, endsInMs: number): void {
    this.cooldowns.set(cooldown, this.clock.now() + endsInMs);
  }

  /** Whether nothing is said of a refusal; nothing counts. */
  isSilent({ person, refusal }: Omit<Refused, 'cooldown'>): boolean {
    const now = this.clock.now();
    const { silentUntil, quietUntil } = this.told.get(person) ?? nothingYet;
    return silentUntil > now || (quietUntil > now && this.last.get(`${person} ${refusal}`) !== undefined);
  }

  private isRepeat(refusal: string, now: number): boolean {
    const last = this.last.get(refusal);
    this.last.set(refusal, now);
    return last !== undefined && last > now - this.budgets.repeats.windowMs;
  }
}

function isSpent(times: readonly number[], { uses, windowMs }: ParsedAllowance, now: number): boolean {
  return grantedFrom(times, now, uses, windowMs, 1) !== undefined;
}

function withTime(times: readonly number[], { windowMs }: ParsedAllowance, now: number): readonly number[] {
  return [...times.slice(firstLive(times, now, windowMs)), now];
}
