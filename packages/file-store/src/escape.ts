/** Texts in a form that SQLite keeps: halves of pairs have none as bytes, and a zero ends a text. */

/** What most texts are made of, in which there is nothing to escape. */
const PLAIN = /^[\w/# .-]*$/;
const special = /[\u0000\u001a]|\p{Cs}/gu;
const marked = /\u001a([0-9a-f]{4})/g;

export function escaped(text: string): string {
  return PLAIN.test(text)
    ? text
    : text.replace(special, (sign) => `\u001a${sign.charCodeAt(0).toString(16).padStart(4, '0')}`);
}

export function unescaped(text: string): string {
  return text.replace(marked, (_, code) => String.fromCharCode(Number.parseInt(code, 16)));
}
