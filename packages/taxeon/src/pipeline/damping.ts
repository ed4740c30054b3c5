/** Damping of refusals on text: the bot does not answer spam with spam. */
import { BoundedMap } from '../base/bounded-map.js';
import type { Clock } from '../base/time.js';
import type { ParsedAllowance } from '../commands/cooldowns.js';
import type { Input } from '../contract/input.js';
import { firstAfter, grantedFrom } from '../limits/window.js';
import type { Unsuccessful } from './stop.js';

/** People in places, and cooldowns of theirs; who was refused longest ago may be told anew. */
const MOST_REMEMBERED = 20_000;

export class Damping {
  /** When each person was told of a refusal, in each place. */
  private readonly refusals = new BoundedMap<string, readonly number[]>(MOST_REMEMBERED);
  /** Cooldowns that somebody was told of, until they end. */
  private readonly told = new BoundedMap<string, number>(MOST_REMEMBERED);

  constructor(
    private readonly budget: ParsedAllowance,
    private readonly clock: Clock,
  ) {}

  /**
   * Whether the caller was told enough; what is told counts.
   *
   * @param command the id of the one that was refused, where one was found
   */
  isSilent(input: Input, platform: string, command: string | undefined, stop: Unsuccessful): boolean {
    const person = whoWhere(input, platform);
    if (this.wasTold(`${person} ${command}`, stop) || this.isSpent(input, platform)) return true;
    const now = this.clock.now();
    const times = this.refusals.get(person) ?? [];
    this.refusals.set(person, [...times.slice(firstAfter(times, now - this.budget.windowMs)), now]);
    return false;
  }

  /** Whether the caller has no answer to a refusal left; nothing counts. */
  isSpent(input: Input, platform: string): boolean {
    const { uses, windowMs } = this.budget;
    const times = this.refusals.get(whoWhere(input, platform));
    return times !== undefined && grantedFrom(times, this.clock.now(), uses, windowMs, 1) !== undefined;
  }

  private wasTold(key: string, stop: Unsuccessful): boolean {
    if (stop.status !== 'refused' || stop.by !== 'layer' || stop.code !== 'cooldown.active') return false;
    const { counts, endsAt } = stop.parameters;
    const cooldown = `${key} ${counts}`;
    if ((this.told.get(cooldown) ?? 0) > this.clock.now()) return true;
    this.told.set(cooldown, endsAt);
    return false;
  }
}

function whoWhere({ caller, place }: Input, platform: string): string {
  return `${platform} ${place.kind === 'console' ? 'console' : place.channel.id} ${caller.id}`;
}
