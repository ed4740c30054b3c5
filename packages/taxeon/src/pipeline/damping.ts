/** Damping of refusals on text: the bot does not answer spam with spam. */
import type { Clock } from '../base/time.js';
import type { ParsedAllowance } from '../commands/cooldowns.js';
import type { Input } from '../contract/input.js';
import type { Limit } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import type { Unsuccessful } from './stop.js';

export class Damping {
  private readonly store;
  private readonly budget: Limit;
  /** Cooldowns that somebody was told of, until they end. */
  private readonly told = new Map<string, number>();

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
    const where = place.kind === 'console' ? 'console' : place.channel.id;
    const person = `${platform} ${where} ${caller.id}`;
    if (this.wasTold(`${person} ${command}`, stop)) return true;
    const verdict = this.store.acquire([this.budget], [person]);
    return !('granted' in verdict && verdict.granted);
  }

  private wasTold(key: string, stop: Unsuccessful): boolean {
    if (stop.status !== 'refused' || stop.by !== 'layer' || stop.code !== 'cooldown.active') return false;
    const now = this.clock.now();
    const { counts, endsAt } = stop.parameters;
    const cooldown = `${key} ${counts}`;
    if ((this.told.get(cooldown) ?? 0) > now) return true;
    this.forget(now);
    this.told.set(cooldown, endsAt);
    return false;
  }

  private forget(now: number): void {
    let checked = 0;
    for (const [key, endsAt] of this.told) {
      if (endsAt <= now) this.told.delete(key);
      if (++checked === 4) return;
    }
  }
}
