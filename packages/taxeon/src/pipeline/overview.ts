/** What a group that is called alone answers: those of its commands that the caller may run. */
import { ofLocale } from '../base/locale.js';
import type { CompiledCommand, CompiledGroup, Entry } from '../catalogue/catalogue.js';
import { isEntryShown } from '../catalogue/entries.js';
import type { Notice } from '../contract/notice.js';
import { sayInReply } from '../replies/phrases.js';
import { showsTo } from './near.js';
import type { Heard } from './state.js';

/** A command or group in a list. */
export interface EntryLine {
  readonly kind: 'command' | 'group';
  /** Its whole name: `overdue remind`. */
  readonly name: string;
  /** As it is written here: `!overdue remind`. */
  readonly written: string;
  readonly description: string;
}

/** What a person may be shown, and how it is written where they are. */
export interface Listing {
  readonly isShown: (command: CompiledCommand) => boolean;
  readonly prefix: string;
  /** The reader's language, BCP 47, for descriptions that are declared in it. */
  readonly locale: string;
}

export function groupOverview(heard: Heard, group: CompiledGroup): Notice {
  const listing = listingFor(heard);
  const { words } = heard.conversation.language;
  const notes =
    group.aliases.length === 0 ? [] : [sayInReply(words, 'reply.aliases', { names: group.aliases.join(', ') })];
  const lines = linesOf(listing, group.members).map(lineInWords);
  return { tone: 'info', heading: group.name, body: descriptionOf(listing, group), details: [...notes, ...lines] };
}

export function listingFor(heard: Heard): Listing {
  return { isShown: showsTo(heard), prefix: prefixOf(heard), locale: localeAskedFor(heard) };
}

/** What a command is written with where the input came from. */
export function prefixOf({ surface, input, nameAt }: Heard): string {
  return surface === 'slash' ? '/' : (input.text?.slice(0, nameAt) ?? '');
}

/** The language that was asked for, be it one that the layer has no messages in. */
function localeAskedFor({ input, settings, conversation }: Heard): string {
  return input.locale ?? settings.settings.locale ?? conversation.language.locale;
}

export function linesOf(listing: Listing, entries: readonly Entry[]): EntryLine[] {
  return entries.filter((entry) => isEntryShown(entry, listing.isShown)).map((entry) => entryLine(listing, entry));
}

export function entryLine(listing: Listing, entry: Entry): EntryLine {
  const { kind, name } = entry;
  return { kind, name, written: `${listing.prefix}${name}`, description: descriptionOf(listing, entry) };
}

export function lineInWords({ written, description, kind }: EntryLine): string {
  return `  ${written}${kind === 'group' ? ' …' : ''}: ${description}`;
}

/** In the reader's language where it is declared, with or without its region. */
export function descriptionOf(listing: Listing, entry: Entry): string {
  return localizedOf(listing, entry)?.description ?? entry.description;
}

export function localizedOf({ locale }: Pick<Listing, 'locale'>, { localized = {} }: Entry) {
  return ofLocale(localized, locale);
}
