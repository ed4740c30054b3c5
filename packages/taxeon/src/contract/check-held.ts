/** Whatever a platform answers with is looked at before it is believed. */
import type { HeldCommand, RegistrationScope } from './registrar.js';

/** Whether something is a list of commands that a platform holds. */
export function isHeldList(held: unknown): held is readonly HeldCommand[] {
  return Array.isArray(held) && held.every(isHeldCommand);
}

function isHeldCommand(one: unknown): boolean {
  const { id, version, by, form, visibleAt } = Object(one) as Partial<HeldCommand>;
  const isNamed = [id, version, by].every((text) => typeof text === 'string');
  return isNamed && typeof form?.name === 'string' && typeof form.id === 'string' && Number.isFinite(visibleAt);
}

export function isScope(scope: unknown): scope is RegistrationScope {
  return scope === 'everywhere' || typeof Object(scope).guild === 'string';
}
