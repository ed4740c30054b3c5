/** Making the elements of a page. */

export type Cell = string | Node;

/** Its name, its attributes, and what stands in it. */
export function element(
  name: string,
  attributes: Readonly<Record<string, string>>,
  ...children: readonly Cell[]
): HTMLElement {
  const made = document.createElement(name);
  for (const [key, value] of Object.entries(attributes)) made.setAttribute(key, value);
  made.append(...children);
  return made;
}
