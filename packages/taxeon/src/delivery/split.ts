/** Making several messages of one that is too long, at places where a reader would pause. */
import { isBlank } from '../base/text.js';
import type { Notice } from '../contract/notice.js';

/** More parts than these would drown the channel; what is beyond is left out, and said to be. */
export const MOST_PARTS = 5;

/** A piece of a body: prose, or a block of code between its fences. */
interface Segment {
  readonly isCode: boolean;
  readonly text: string;
  /** The opening line, with the language if one is named. */
  readonly fence: string;
}

const FENCE = '```';

/**
 * Splits a notice so that `measure` gives at most `longest` for each part: between paragraphs, lines,
 * sentences or words where it can, never inside a character. A block of code that must be split is closed
 * and opened again. The heading stays with the first part, the details with the last.
 *
 * @param cut what ends the last part where something is left out
 *
 * @example
 * const parts = splitNotice({ body: text }, 400, (notice) => plainText(notice).length, '…');
 */
export function splitNotice(
  notice: Notice,
  longest: number,
  measure: (notice: Notice) => number,
  cut: string,
): readonly Notice[] {
  if (measure(notice) <= longest) return [notice];
  const { details: told = [], heading, amount, ...rest } = notice;
  const details = told.filter((one) => !isBlank(one));
  const short = heading === undefined ? undefined : shortened(heading, Math.floor(longest / 4), cut);
  const parts: Notice[] = [];
  let text = '';
  const asPart = (body: string): Notice =>
    parts.length === 0 && short !== undefined ? { ...rest, heading: short, body } : { ...rest, body };
  const fits = (body: string) => measure(asPart(body)) <= longest;
  const flush = () => {
    if (text.trim() !== '') parts.push(asPart(text.replace(/^\n+|\s+$/g, '')));
    text = '';
  };
  for (const given of segmentsOf(notice.body)) {
    // Where its fences take most of the room, code is prose.
    const isRoom = [given.text, 'x'.repeat(longest / 2)].some((text) => fits(fenced(given, text)));
    const segment = isRoom ? given : { ...given, isCode: false };
    let left = segment.text;
    while (!isBlank(left) && parts.length < MOST_PARTS) {
      if (fits(text + fenced(segment, left))) {
        text += fenced(segment, left);
        break;
      }
      const room = largest(left.length, (length) => fits(text + fenced(segment, left.slice(0, length))));
      const end = breakBefore(left, room, segment.isCode, text === '');
      if (end > 0) text += fenced(segment, left.slice(0, end));
      left = left.slice(end).replace(segment.isCode ? /^\n/ : /^\s+/, '');
      flush();
    }
  }
  flush();
  const withDetails = addDetails(
    parts,
    details,
    amount,
    (part) => measure(part) <= longest,
    (part) => splitNotice(part, longest, measure, cut),
  );
  if (withDetails.length <= MOST_PARTS && !leftOut(notice, withDetails)) return withDetails;
  const kept = withDetails.slice(0, MOST_PARTS);
  const last = kept.at(-1);
  // Of nothing that could be seen, nothing is left.
  if (last === undefined) return [];
  const ended = (length: number): Notice => ({ ...last, body: `${closed(last.body.slice(0, length))}\n${cut}`.trim() });
  const room = largest(last.body.length, (length) => measure(ended(length)) <= longest);
  const endWithin = (most: number) => breakBefore(last.body, most, false, false) || wholeUpTo(last.body, most);
  let length = endWithin(room);
  // A fence that must be closed needs room as well.
  while (length > 0 && measure(ended(length)) > longest) length = endWithin(length - 1);
  return measure(ended(length)) <= longest ? [...kept.slice(0, -1), ended(length)] : kept;
}

/** A block of code that was cut open is closed. */
function closed(body: string): string {
  return (body.match(/^```/gm) ?? []).length % 2 === 1 ? `${body}\n${FENCE}` : body;
}

function leftOut({ body }: Notice, parts: readonly Notice[]): boolean {
  const length = (text: string) => text.replace(/\s+|```\S*/g, '').length;
  return parts.reduce((sum, part) => sum + length(part.body), 0) < length(body);
}

function addDetails(
  parts: Notice[],
  details: readonly string[],
  amount: Notice['amount'],
  fits: (part: Notice) => boolean,
  split: (part: Notice) => readonly Notice[],
): readonly Notice[] {
  if (amount === undefined && details.length === 0) return parts;
  const extra = { ...(amount === undefined ? {} : { amount }), ...(details.length === 0 ? {} : { details }) };
  const last = parts.at(-1);
  const { tone } = last ?? {};
  const own = { ...(tone === undefined ? {} : { tone }), body: '', ...extra };
  if (last !== undefined && fits({ ...last, ...extra })) return [...parts.slice(0, -1), { ...last, ...extra }];
  if (fits(own)) return [...parts, own];
  // As text of their own they can be split.
  return details.length === 0 ? parts : [...parts, ...split({ ...own, details: [], body: details.join('\n') })];
}

function shortened(text: string, longest: number, cut: string): string {
  return text.length <= longest ? text : `${text.slice(0, breakBefore(text, longest, false, true))}${cut.slice(0, 1)}`;
}

function fenced({ isCode, fence }: Segment, text: string): string {
  return isCode ? `${fence}\n${text}\n${FENCE}\n` : text;
}

function segmentsOf(body: string): readonly Segment[] {
  const segments: Segment[] = [];
  let at = 0;
  for (const match of body.matchAll(/^(```[^\n`]*)\n([\s\S]*?)(?:\n```[ \t]*$|(?![\s\S]))\n?/gm)) {
    if (match.index > at) segments.push({ isCode: false, fence: '', text: body.slice(at, match.index) });
    segments.push({ isCode: true, fence: match[1] as string, text: match[2] as string });
    at = match.index + match[0].length;
  }
  if (at < body.length) segments.push({ isCode: false, fence: '', text: body.slice(at) });
  return segments;
}

/** The largest length for which `fits` holds, given that it holds for all that are smaller. */
function largest(most: number, fits: (length: number) => boolean): number {
  let low = 0;
  let high = most;
  while (low < high) {
    const middle = Math.ceil((low + high) / 2);
    if (fits(middle)) low = middle;
    else high = middle - 1;
  }
  return low;
}

const pauses = [/\n\n/g, /\n/g, /[.!?…。！？]["”’)]*\s/g, /\s/g];

/** Where to break a text of which `room` units fit; 0 where nothing good does and the part is not empty yet. */
function breakBefore(text: string, room: number, isCode: boolean, mustTake: boolean): number {
  if (room >= text.length) return text.length;
  const head = text.slice(0, room + 1);
  for (const pause of isCode ? [/\n/g] : pauses) {
    const last = [...head.matchAll(pause)].at(-1);
    const end = last === undefined ? 0 : last.index + last[0].trimEnd().length;
    // A break in the first third would leave a stump.
    if (end > room / 3) return end;
  }
  return mustTake ? wholeCharacters(text, room) : 0;
}

/** The longest character that is kept whole, in UTF-16 code units. */
const LONGEST_CHARACTER = 64;

/** From the beginning, since where in a row of flags one ends is told only by counting them. */
function wholeUpTo(text: string, room: number): number {
  let end = 0;
  const near = text.slice(0, room + LONGEST_CHARACTER);
  for (const { index } of new Intl.Segmenter(undefined, { granularity: 'grapheme' }).segment(near)) {
    if (index > room) break;
    end = index;
  }
  return end;
}

function wholeCharacters(text: string, room: number): number {
  // A single character that is longer than the message may be is cut after all, but not inside a surrogate pair.
  return (
    wholeUpTo(text, room) || (/[\ud800-\udbff]/.test(text.charAt(room - 1)) && room > 1 ? room - 1 : Math.max(1, room))
  );
}
