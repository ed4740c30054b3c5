/** Damping of refusals on text: the bot does not answer spam with spam. */
import type { Clock } from '../base/time.js';
import type { ParsedAllowance } from '../commands/cooldowns.js';
import type { Limit } from '../contract/store.js';
import { memoryStore } from '../memory/store.js';
import type { Run } from './run-object.js';
import type { Stop } from './stages.js';

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

  /** Whether the caller was told enough; what is told counts. */
  isSilent(run: Run, stop: Exclude<Stop, { status: 'completed' | 'runs' }>): boolean {
    const { caller, place } = run.input;
    const where = place.kind === 'console' ? 'console' : place.channel.id;
    const person = `${run.platform?.name ?? ''} ${where} ${caller.id}`;
    if (this.wasTold(run, stop, person)) return true;
    const verdict = this.store.acquire([this.budget], [person]);
    return !('granted' in verdict && verdict.granted);
  }

  private wasTold(run: Run, stop: Exclude<Stop, { status: 'completed' | 'runs' }>, person: string): boolean {
    if (stop.status !== 'refused' || stop.by !== 'layer' || stop.code !== 'cooldown.active') return false;
    const now = this.clock.now();
    const key = `${person} ${run.deniedKey}`;
    if ((this.told.get(key) ?? 0) > now) return true;
    this.forget(now);
    this.told.set(key, stop.parameters.endsAt);
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
