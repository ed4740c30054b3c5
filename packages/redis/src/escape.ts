/** Texts in a form that an engine keeps: some signs have none as bytes, or end a text, or part a name. */

/** What most texts are made of, in which there is nothing to escape. */
const PLAIN = /^[\w/# .-]*$/;

export interface Escape {
  escaped(text: string): string;
  unescaped(text: string): string;
}

/** @param mark stands in front of the four digits of a sign */
function escapeOf(mark: string, special: RegExp): Escape {
  const marked = new RegExp(`${mark}([0-9a-f]{4})`, 'g');
  return {
    escaped: (text) =>
      PLAIN.test(text)
        ? text
        : text.replace(special, (sign) => mark + sign.charCodeAt(0).toString(16).padStart(4, '0')),
    unescaped: (text) => text.replace(marked, (_, code) => String.fromCharCode(Number.parseInt(code, 16))),
  };
}

/** For what is kept as text: halves of pairs, and what ends a text elsewhere. */
export const forText = escapeOf('\u001a', /[\u0000\u001a]|\p{Cs}/gu);

/** For names of several parts with `:` between, of which `{` and `}` would choose the server in a cluster. */
export const forNames = escapeOf('%', /[%:{}\u0000]|\p{Cs}/gu);
