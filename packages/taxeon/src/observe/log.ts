/** The log that a layer has when it is given none, and what keeps secrets out of one. */
import { visibleText } from '../base/text.js';
import { atOnce } from '../base/thenable.js';
import type { Log } from '../contract/log.js';

export const consoleLog: Log = {
  error: (fields, message) => console.error(message, fields),
  warn: (fields, message) => console.warn(message, fields),
  info: (fields, message) => console.info(message, fields),
};

const levels = ['error', 'warn', 'info'] as const;

const LONGEST_FIELD = 1000;

/** Names and ids from outside must not break a line, hide what follows, or fill a disk. */
function visibleFields(fields: Readonly<Record<string, unknown>>): Readonly<Record<string, unknown>> {
  const shown: Record<string, unknown> = {};
  for (const name in fields) {
    const value = fields[name];
    shown[name] = Array.isArray(value) ? value.map(visibleField) : visibleField(value);
  }
  return shown;
}

function visibleField(value: unknown): unknown {
  return typeof value === 'string' ? visibleText(value, LONGEST_FIELD) : value;
}

/**
 * A log that never throws, whatever is logged, and shows no control characters; the console’s where none is given.
 *
 * @example
 * safeLog().warn({ channel: 'counter' }, 'The chat closed the connection');
 */
export function safeLog(log: Log = consoleLog): Log {
  return mappedLog(log, (write, fields, message) => {
    try {
      atOnce(write(visibleFields(fields), message));
    } catch {
      try {
        atOnce(write({ unloggable: Object.keys(fields).join(', ') }, message));
      } catch {
        // There is nowhere left to tell it.
      }
    }
  });
}

/** What `logWithout` leaves out. */
export interface LeftOut {
  /** Fields that are never written, at any depth: `['token', 'note']`. */
  readonly keys?: readonly string[];
  /** Texts that are never written, wherever they stand, such as the platform's token. */
  readonly values?: readonly string[];
}

const LEFT_OUT = '[left out]';
const DEEPEST = 6;

/**
 * A log that leaves secrets out.
 *
 * @example
 * createCommandLayer({ commands, log: logWithout(log, { keys: ['note'], values: [process.env['TOKEN'] ?? ''] }) });
 */
export function logWithout(log: Log, { keys = [], values = [] }: LeftOut): Log {
  const hidden = new Set(keys);
  const secrets = values.filter((value) => value !== '');
  const clean = (text: string) => secrets.reduce((all, secret) => all.replaceAll(secret, LEFT_OUT), text);

  function without(value: unknown, depth: number): unknown {
    if (typeof value === 'string') return clean(value);
    if (typeof value !== 'object' || value === null) return value;
    if (depth === DEEPEST) return LEFT_OUT;
    if (value instanceof Error) return errorWithout(value, depth);
    if (Array.isArray(value)) return value.map((one) => without(one, depth + 1));
    if (value instanceof Date || value instanceof URL) return clean(String(value));
    return Object.fromEntries(
      Object.entries(value).map(([key, one]) => [key, hidden.has(key) ? LEFT_OUT : without(one, depth + 1)]),
    );
  }

  function errorWithout(error: Error, depth: number): Error {
    const cause = error.cause === undefined ? {} : { cause: without(error.cause, depth + 1) };
    const copy = new Error(clean(String(error.message)), cause);
    copy.name = error.name;
    copy.stack = clean(String(error.stack));
    return copy;
  }

  return mappedLog(log, (write, fields, message) => write(without(fields, 0) as typeof fields, clean(message)));
}

type Write = (fields: Readonly<Record<string, unknown>>, message: string) => void;

function mappedLog(log: Log, through: (write: Write, ...entry: Parameters<Write>) => void): Log {
  const own: Record<string, Write> = {};
  for (const level of levels) {
    if (log[level] === undefined) continue;
    own[level] = (fields, message) => through((...entry) => log[level]?.(...entry), fields, message);
  }
  return own as unknown as Log;
}
