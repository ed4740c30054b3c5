/** What an option of an adapter must be, where no form that all share says it. */
import type { FieldForm } from '../base/fields.js';

/** What to give in place of all that is not so. */
export function form(wanted: string, is: (value: unknown) => boolean): FieldForm {
  return (value) => (is(value) ? undefined : wanted);
}
