/** What handlers and hooks say is not trusted to have the right form: types do not hold in JavaScript. */
import { isBlank } from '../base/text.js';
import { durationMs } from '../base/time.js';
import type { Saying } from './notice.js';

/** What is wrong with a notice, for the log; `undefined` where it is right. Hot path: bench/rows/calls. */
export function noticeProblem(notice: unknown): string | undefined {
  if (typeof notice !== 'object' || notice === null) return 'is none';
  const { tone, heading, body, details, amount, visibleTo, expires } = notice as Partial<Record<keyof Saying, unknown>>;
  if (typeof body !== 'string') return 'has a body that is no text';
  if (heading !== undefined && typeof heading !== 'string') return 'has a heading that is no text';
  if (tone !== undefined && !tones.includes(tone)) return 'has a tone that is none';
  if (details !== undefined && !(Array.isArray(details) && details.every((one) => typeof one === 'string'))) {
    return 'has details that are no list of texts';
  }
  if (amount !== undefined && !isAmount(amount)) return 'has an amount without numbers';
  if (visibleTo !== undefined && visibleTo !== 'everyone' && visibleTo !== 'caller') return 'is visible to nobody';
  if (expires !== undefined && durationMs(expires as never) === undefined) return 'expires after no length of time';
  if (isBlank(body) && heading === undefined && amount === undefined && (details ?? []).length === 0) {
    return 'has nothing in it';
  }
  return undefined;
}

const tones: readonly unknown[] = ['success', 'partial', 'problem', 'info'];

function isAmount(amount: unknown): boolean {
  const { done, asked } = (amount ?? {}) as Partial<Record<string, unknown>>;
  return Number.isFinite(done) && Number.isFinite(asked);
}
