/** Leaving types out of a file, and the place where its syntax is wrong. */
import { readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { transformSync } from 'oxc-transform';

export interface WrongSyntax {
  readonly message: string;
  /** From 1 on, where it is known. */
  readonly line: number | undefined;
}

/** A file as JavaScript, or what is wrong with its syntax. */
export function withoutTypes(url: string): string | WrongSyntax {
  const path = fileURLToPath(url);
  const text = readFileSync(path, 'utf8');
  const { code, errors } = transformSync(path, text);
  const [first] = errors;
  if (first === undefined) return code;
  const start = first.labels[0]?.start;
  return { message: first.message, line: start === undefined ? undefined : text.slice(0, start).split('\n').length };
}
