/** Taking away what is left over, once people would not be without it. */
import { type RegisteredForm, type RegistrationScope, scopeName } from '../contract/registrar.js';
import type { Desired } from '../queries/manifest.js';
import { type Claim, changing, trying, withinPatience } from './calling.js';
import { type Progress, type Registering, untilSettled } from './change.js';
import { type DifferenceEntry, scopeDifference } from './difference.js';

type LeftOver = Extract<DifferenceEntry, { state: 'leftOver' }>;

/** Whether something of this bot's is kept there. */
export async function removeLeftOver(
  registering: Registering,
  desired: Desired,
  all: readonly Desired[],
  claim: Claim,
  progress: Progress,
): Promise<boolean> {
  const { clock, registrar } = registering;
  const scope = scopeName(desired.scope);
  const tellKept = (name: string, note: string) => {
    progress.kept += 1;
    registering.onProgress?.({ scope, done: 'kept', name, note });
  };
  const kept = new Set<string>();
  await removeEach(registering, desired, claim, progress, async ({ name, held }) => {
    if (!registering.removeLeftOver) {
      if (!kept.has(name)) tellKept(name, 'removals were not asked for');
      kept.add(name);
      return Number.POSITIVE_INFINITY;
    }
    const seenAt = await seenElsewhereAt(registering, { name, held } as LeftOver, desired.scope, all, claim);
    // It is gone when the other one is there.
    const at = seenAt - registrar.delayMs.guild;
    if (at <= clock.now()) return undefined;
    if (!kept.has(name)) {
      tellKept(name, `until people see the other one, at ${new Date(seenAt).toISOString()}`);
      progress.left.push({ scope, name, does: 'remove', at });
    }
    kept.add(name);
    return at;
  });
  return kept.size > 0;
}

/**
 * Removes what is left over in a scope, as `when` says: at once where it says nothing.
 *
 * @returns the forms that were removed
 */
export async function removeEach(
  registering: Registering,
  desired: Desired,
  claim: Claim,
  progress: Progress,
  when: (entry: Pick<LeftOver, 'name' | 'held'>) => Promise<number | undefined>,
): Promise<readonly RegisteredForm[]> {
  const { registrar, by } = registering;
  const scope = scopeName(desired.scope);
  const removed: RegisteredForm[] = [];
  /** What was asked to go, and is looked for again where the answer was lost. */
  const pending = new Map<string, RegisteredForm>();
  await untilSettled(registering, claim, scope, async () => {
    const { entries } = await trying(registering, claim, scope, () =>
      withinPatience(registering, () => scopeDifference(desired, registrar, by)),
    );
    const leftOver = entries.filter((entry) => entry.state === 'leftOver');
    for (const [id, form] of pending) {
      if (!leftOver.some(({ held }) => held.id === id)) tellRemoved(form);
      pending.delete(id);
    }
    for (const { name, held } of leftOver) {
      if ((await when({ name, held })) !== undefined) continue;
      pending.set(held.id, held.form);
      await changing(registering, claim, scope, () => registrar.remove(desired.scope, held));
      pending.delete(held.id);
      tellRemoved(held.form);
    }
  });
  return removed;

  function tellRemoved(form: RegisteredForm): void {
    removed.push(form);
    progress.removed += 1;
    registering.onProgress?.({ scope, done: 'removed', name: form.name, note: '' });
  }
}

/** A guild's command that has become one for everywhere is kept until people see that. */
async function seenElsewhereAt(
  registering: Registering,
  { name, held }: LeftOver,
  scope: RegistrationScope,
  all: readonly Desired[],
  claim: Claim,
): Promise<number> {
  if (scope === 'everywhere') return 0;
  const isIt = (form: RegisteredForm) => form.id === held.form.id || form.name === name;
  if (all.find((one) => one.scope === 'everywhere')?.forms.some(isIt) !== true) return 0;
  const there = await trying(registering, claim, 'everywhere', () =>
    withinPatience(registering, () => registering.registrar.read('everywhere')),
  );
  return there.find(({ form }) => isIt(form))?.visibleAt ?? Number.POSITIVE_INFINITY;
}
