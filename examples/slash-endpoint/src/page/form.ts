/** The form of a command, made of what is registered of it. */
import type { ArgumentSchema } from 'taxeon/platform';
import { element } from '../../../figures/src/element.js';
import type { Usable } from './about.js';

/** What is filled in, by argument; what is empty is left out. */
export interface FilledForm {
  readonly fields: readonly HTMLElement[];
  options(): Record<string, unknown>;
}

interface Field {
  readonly label: HTMLElement;
  value(): string | boolean | undefined;
}

/** @param hints what could stand in a field, by the argument's kind */
export function formFor({ form }: Usable, hints: Readonly<Record<string, readonly string[]>>): FilledForm {
  const { properties = {}, required = [], 'x-order': order = [] } = form.arguments ?? {};
  const fields = order.map((name): [string, Field] => {
    const schema = properties[name] as ArgumentSchema;
    return [name, fieldFor(name, schema, required.includes(name), hints)];
  });
  return {
    fields: fields.map(([, { label }]) => label),
    options() {
      const given = fields.map(([name, { value }]) => [name, value()] as const);
      return Object.fromEntries(given.filter(([, value]) => value !== undefined));
    },
  };
}

function fieldFor(
  name: string,
  schema: ArgumentSchema,
  isRequired: boolean,
  hints: Readonly<Record<string, readonly string[]>>,
): Field {
  const { type, description = '', enum: labels } = schema;
  const title = element('span', {}, `${name}${isRequired ? '' : ' (may be left out)'}`);
  const note = element('small', {}, description);
  if (type === 'boolean') {
    const box = element('input', { type: 'checkbox' }) as HTMLInputElement;
    return { label: element('label', { class: 'flag' }, box, title, note), value: () => box.checked };
  }
  if (labels !== undefined) {
    const options = ['', ...labels].map((label) => element('option', { value: label }, label));
    const select = element('select', {}, ...options) as HTMLSelectElement;
    return { label: element('label', {}, title, select, note), value: () => select.value || undefined };
  }
  const known = hints[name] ?? hints[schema['x-kind'] ?? ''] ?? [];
  const list = element('datalist', { id: `known-${name}` }, ...known.map((value) => element('option', { value })));
  const input = element('input', { type: 'text', list: list.id, autocomplete: 'off' }) as HTMLInputElement;
  return { label: element('label', {}, title, input, list, note), value: () => input.value || undefined };
}
