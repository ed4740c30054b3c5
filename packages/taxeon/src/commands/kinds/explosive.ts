/** Whether a regular expression can take a time that grows without measure with its text. */

interface PatternGroup {
  /** Something in it may be there more or less often. */
  varies: boolean;
  /** Something in it may be repeated without end. */
  repeats: boolean;
}

/** Each repetition without end multiplies the ways in which a text can be taken apart. */
const MOST_REPETITIONS = 3;

const quantifier = /^(?:[*+?]|\{(\d+)(?:(,)(\d*))?\})/;

/**
 * What stands in the way of trying it on a text of a few hundred characters; `undefined` where nothing does. It is
 * strict: it refuses repetitions of what itself varies, alternatives within repetitions, and references back, some of
 * which would do no harm.
 * Source: J. Kirrage, A. Rathnayake, H. Thielecke, "Static Analysis for Regular Expression Denial-of-Service Attacks", NSS 2013.
 */
export function explosive(source: string): string | undefined {
  const open: PatternGroup[] = [{ varies: false, repeats: false }];
  let atom: PatternGroup | undefined;
  let repetitions = 0;
  for (let at = 0; at < source.length; ) {
    const sign = source[at] as string;
    const [whole, least, comma, most] = quantifier.exec(source.slice(at, at + 20)) ?? [];
    const around = open[open.length - 1] as PatternGroup;
    if (whole !== undefined) {
      const isEndless = whole === '*' || whole === '+' || (comma !== undefined && most === '');
      const times = isEndless ? Number.POSITIVE_INFINITY : Number(most ?? least ?? 1);
      const isOften = times > 1;
      if (isOften && atom?.repeats) return 'a repetition within a repetition';
      if (isEndless && atom?.varies) return 'alternatives or repetitions within a repetition';
      if (isEndless && ++repetitions > MOST_REPETITIONS) return `more than ${MOST_REPETITIONS} repetitions without end`;
      around.varies ||= whole === '?' || isEndless || (comma !== undefined && most !== least);
      around.repeats ||= isEndless;
      at += whole.length;
      if (source[at] === '?') at++;
      atom = undefined;
      continue;
    }
    atom = undefined;
    if (sign === '\\') {
      if (/^\\(?:[1-9]|k<)/.test(source.slice(at, at + 3))) return 'a reference back';
      at += 2;
    } else if (sign === '[') at = endOfClass(source, at);
    else if (sign === '(') {
      open.push({ varies: false, repeats: false });
      // What says how a group is meant is no repetition of it.
      at += /^\((?:\?(?:[:=!]|<[=!]|<[^>]*>|[a-z-]*:))?/.exec(source.slice(at))?.[0].length ?? 1;
    } else if (sign === ')') {
      atom = open.length > 1 ? open.pop() : undefined;
      const outer = open[open.length - 1] as PatternGroup;
      outer.varies ||= atom?.varies === true;
      outer.repeats ||= atom?.repeats === true;
      at++;
    } else {
      if (sign === '|') around.varies = true;
      at++;
    }
  }
  return undefined;
}

function endOfClass(source: string, from: number): number {
  let at = from + 1;
  for (let depth = 1; at < source.length && depth > 0; at++) {
    if (source[at] === '\\') at++;
    else if (source[at] === '[') depth++;
    else if (source[at] === ']') depth--;
  }
  return at;
}
