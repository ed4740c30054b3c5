/** Texts with `{names}` in them. */

const placeholder = /\{(\w+)\}/g;

/** A template with its `{names}` filled in; a name without a value stays as it is. */
export function fillIn(template: string, values: object): string {
  return template.replace(placeholder, (whole, name: string) =>
    String((values as Record<string, unknown>)[name] ?? whole),
  );
}

export function namesIn(template: string): string[] {
  return Array.from(template.matchAll(placeholder), ([, name = '']) => name);
}
