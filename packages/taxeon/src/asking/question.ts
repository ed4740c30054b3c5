/** A question as it is kept in the store, where another process may find it. */
import { isRecord } from '../base/fields.js';

/** What was asked, with all that is needed to go on. */
export interface Question {
  readonly kind: 'argument' | 'confirmation' | 'handler';
  /** Which no other question has. */
  readonly id: string;
  /** The layer that has asked. */
  readonly by: string;
  /** Until when an answer is taken, in milliseconds since 1970-01-01 UTC. */
  readonly until: number;
  /** The argument, or the question that wants a yes. */
  readonly asked: string;
  /** The command's id, and what arguments it has: an answer is not for another one. */
  readonly command: string;
  readonly signature: string;
  /** The command's name as it was typed, its groups in front. */
  readonly typed: string;
  /** The line, and where in it the command's name begins; or a slash command's path and options. */
  readonly text: string | undefined;
  readonly nameAt: number;
  readonly path: readonly string[] | undefined;
  readonly options: Readonly<Record<string, unknown>> | undefined;
  /** What was answered before, by argument. */
  readonly answers: Readonly<Record<string, string>>;
  /** What a yes would be to: the question, with the ids of all whom and what it is about. */
  readonly about: string;
  /** What was said yes to before, in the same words. */
  readonly confirmed: string | undefined;
  /** The form that was shown, by its id. */
  readonly form: string | undefined;
  /** Whom to tell where nobody is left who waits for the answer. */
  /** Its name; empty where nobody is told that the question is lost. */
  readonly platform: string;
  readonly person: { readonly id: string; readonly name: string };
  readonly locale: string;
}

/** Longer ones are not asked: what a stranger types fills the store. In UTF-16 code units. */
const LONGEST_QUESTION = 8000;

/** `undefined` where it is too long, or holds what is no JSON. */
export function writtenQuestion(question: Question): string | undefined {
  try {
    const text = JSON.stringify(question);
    return text.length > LONGEST_QUESTION ? undefined : text;
  } catch {
    return undefined;
  }
}

/** `undefined` where a store gives what is no question. */
export function questionFrom(text: string): Question | undefined {
  if (text.length > LONGEST_QUESTION) return undefined;
  try {
    const read = JSON.parse(text) as Partial<Record<keyof Question, unknown>> | null;
    return read !== null && isQuestion(read) ? (read as unknown as Question) : undefined;
  } catch {
    return undefined;
  }
}

const kinds: readonly unknown[] = ['argument', 'confirmation', 'handler'];
const texts = ['id', 'by', 'asked', 'about', 'command', 'signature', 'typed', 'platform', 'locale'] as const;

function isQuestion(read: Partial<Record<keyof Question, unknown>>): boolean {
  const { kind, until, nameAt, text, path, options, answers, person } = read;
  return (
    kinds.includes(kind) &&
    texts.every((name) => typeof read[name] === 'string') &&
    Number.isFinite(until) &&
    Number.isInteger(nameAt) &&
    (typeof text === 'string' || (Array.isArray(path) && isRecord(options))) &&
    isRecord(answers) &&
    Object.values(answers).every((one) => typeof one === 'string') &&
    isRecord(person) &&
    typeof person['id'] === 'string' &&
    typeof person['name'] === 'string'
  );
}
