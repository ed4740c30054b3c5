/** Damping of refusals on text: the bot does not answer spam with spam. */
import { BoundedMap } from '../base/bounded-map.js';
import type { Clock } from '../base/time.js';
import type { ParsedAllowance } from '../commands/cooldowns.js';
import type { Input } from '../contract/input.js';
import type { Limit } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import type { Unsuccessful } from './stop.js';

/** Cooldowns that were told; who was told of others longest ago may be told again. */
const MOST_TOLD = 50_000;

export class Damping {
  private readonly store;
  private readonly budget: Limit;
  /** Cooldowns that somebody was told of, until they end. */
  private readonly told = new BoundedMap<string, number>(MOST_TOLD);

  constructor(
    { uses, windowMs }: ParsedAllowance,
    private readonly clock: Clock,
  ) {
    this.store = memoryStore({ clock });
    this.budget = { id: 'refusals', uses, windowMs };
  }

  /**
   * Whether the caller was told enough; what is told counts.
   *
   * @param command the id of the one that was refused, where one was found
   */
  isSilent({ caller, place }: Input, platform: string, command: string | undefined, stop: Unsuccessful): boolean {
    const person = whoWhere(caller, place, platform);
    if (this.wasTold(`${person} ${command}`, stop)) return true;
    const verdict = this.store.acquire([this.budget], [person]);
    return !('granted' in verdict && verdict.granted);
  }

  /** Whether the caller has no answer to a refusal left; nothing counts. */
  isSpent({ caller, place }: Input, platform: string): boolean {
    const verdict = this.store.look([this.budget], [whoWhere(caller, place, platform)]);
    return !('granted' in verdict && verdict.granted);
  }

  private wasTold(key: string, stop: Unsuccessful): boolean {
    if (stop.status !== 'refused' || stop.by !== 'layer' || stop.code !== 'cooldown.active') return false;
    const now = this.clock.now();
    const { counts, endsAt } = stop.parameters;
    const cooldown = `${key} ${counts}`;
    if ((this.told.get(cooldown) ?? 0) > now) return true;
    this.told.set(cooldown, endsAt);
    return false;
  }
}

function whoWhere({ id }: Input['caller'], place: Input['place'], platform: string): string {
  return `${platform} ${place.kind === 'console' ? 'console' : place.channel.id} ${id}`;
}
