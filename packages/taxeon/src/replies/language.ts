/** What a language is: words for every code, and for the parts that replies are made of. */

import type { Requirement } from '../commands/requirements.js';
import type { Code, CodeParameters } from '../contract/codes.js';
import type { Words } from '../contract/words.js';

/** A sentence for each code. */
export type Messages = { readonly [C in Code]: (parameters: CodeParameters[C]) => string };

/** What a reply says besides the message of a code. */
export interface Phrases {
  usage(written: string): string;
  example(written: string): string;
  /** Closes an invocation whose handler had nothing to say. */
  done(): string;
  /** Closes what was held for others than those who are answered. */
  answered(): string;
  /** Said in place of what is for the caller alone, where it could not be told to them alone. */
  unreached(): string;
  /** What would make plain text of what was read otherwise. */
  quoted(written: string): string;
  lowered(argument: string, to: string): string;
  /** How what could be read in two ways was read. */
  readAs(argument: string, read: string, as: string): string;
  /** Said once to somebody who is not told refusals for a while. */
  quiet(wait: string): string;
  /** Ends a reply that was too long to be said whole. */
  cut(): string;
  /** Ends the beginning of a long reply that others see: the rest is told to the caller alone. */
  restApart(): string;
  /** Warns somebody for whom so much waits to be said that some of it is left out. */
  crowded(): string;
  aliases(names: readonly string[]): string;
}

/** What help says, and nothing else does. */
export interface HelpPhrases {
  /** Heads the list of all commands. */
  commands(): string;
  /** What somebody needs to run a command: all of it. */
  needs(requirements: readonly Requirement[]): string;
  limit(limit: LimitTold): string;
  /** Ends a page that is not the last: which it is, and what to write for the next. */
  page(page: number, pages: number, next: string): string;
  /** There is no such command or group. */
  nothingFound(name: string, near: readonly string[]): string;
  /** There is nothing that the caller may run. */
  nothingToRun(): string;
}

/** A cooldown, or how many may run at once where there is no window. */
export interface LimitTold {
  readonly uses: number;
  readonly windowMs: number | undefined;
  /** `user`, `guild` …, or a name of the bot's own. */
  readonly counts: string;
}

/** Everything that a layer says, in one language. */
export interface Language {
  /** BCP 47. */
  readonly locale: string;
  readonly words: Words;
  readonly messages: Messages;
  readonly phrases: Phrases;
  /** In English where it is absent, so that a bot without help carries nothing of it. */
  readonly help?: HelpPhrases;
  /**
   * The same text with this language's words for dates and lengths of time in English, in which they are read:
   * `2 dni` as `2 day`. English words alone are read without it.
   */
  inEnglish?(text: string): string;
}

/** Finds a language by what was asked for, from the most to the least specific subtag (RFC 4647, lookup). */
export function languageFinder(
  languages: readonly Language[],
  fallback: Language,
): (wanted: string | undefined) => Language | undefined {
  const byTag = new Map([fallback, ...languages].map((language) => [language.locale.toLowerCase(), language]));
  const found = new Map<string, Language | undefined>();
  return (wanted) => {
    if (wanted === undefined) return undefined;
    const known = found.get(wanted);
    if (known !== undefined || found.has(wanted)) return known;
    const language = lookUp(byTag, wanted);
    // Whatever a platform says is somebody's input: only so many are remembered.
    if (found.size < MOST_REMEMBERED && wanted.length <= LONGEST_TAG) found.set(wanted, language);
    return language;
  };
}

/** Chooses the language that is asked for, that of a guild, or the layer's own, whichever is there first. */
export function languageChooser(
  languages: readonly Language[] = [],
  fallback: Language,
  locale: string | undefined,
): (asked: string | undefined, guilds: string | undefined) => Language {
  const find = languageFinder(languages, fallback);
  const own = find(locale) ?? fallback;
  return (asked, guilds) => (typeof asked === 'string' ? find(asked) : undefined) ?? find(guilds) ?? own;
}

const MOST_REMEMBERED = 512;
const LONGEST_TAG = 64;

function lookUp(byTag: ReadonlyMap<string, Language>, wanted: string): Language | undefined {
  if (wanted.length > LONGEST_TAG) return undefined;
  let tag = wanted.toLowerCase().replaceAll('_', '-');
  while (tag !== '') {
    const language = byTag.get(tag);
    if (language !== undefined) return language;
    tag = tag.slice(0, Math.max(0, tag.lastIndexOf('-')));
  }
  return undefined;
}
