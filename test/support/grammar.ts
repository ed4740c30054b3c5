/** The commands that the examples of docs/input-grammar.md call, and how a reading is written down there. */

import { icuLanguage, japanese, polish } from '@taxeon/icu';
import { standIn, virtualClock } from '@taxeon/testing';
import {
  arg,
  command,
  createCommandLayer,
  english,
  helpCommand,
  type Language,
  type Outcome,
  type Problem,
} from 'taxeon';
import { oddmereData, silentLog, startOfAfternoon } from './oddmere.js';

const run = () => 'done';
const described = { description: 'An example', run };
const duration = { min: '1h', max: '12d' } as const;

export const grammarCommands = [
  command({ ...described, name: 'note', aliases: ['memo', 'Notiz', 'ÉTAGE'], args: { text: arg.tail() } }),
  command({ ...described, name: 'jot', args: { what: arg.text(), more: arg.text({ optional: true }) } }),
  command({
    ...described,
    name: 'borrow',
    args: { tool: arg.text(), keep: arg.duration({ ...duration, optional: true }), note: arg.tail({ optional: true }) },
  }),
  command({
    ...described,
    name: 'count',
    args: {
      first: arg.integer(),
      second: arg.integer({ optional: true, max: 100 }),
      note: arg.tail({ optional: true }),
    },
  }),
  command({
    ...described,
    name: 'pick',
    args: {
      machine: arg.choice(['lathe', 'welder', 'chainsaw'], { optional: true }),
      note: arg.tail({ optional: true }),
    },
  }),
  command({
    ...described,
    name: 'fine',
    args: { who: arg.member(), pence: arg.integer({ min: 1, max: 500 }), tool: arg.text({ optional: true }) },
  }),
  command({
    ...described,
    name: 'thank',
    args: { who: arg.member({ by: 'mention', optional: true }), words: arg.tail({ optional: true }) },
  }),
  command({
    ...described,
    name: 'stock',
    args: {
      tool: arg.text(),
      days: arg.integer({ flag: { short: 'd' }, optional: true }),
      dryRun: arg.boolean({ flag: true }),
      tag: arg.list(arg.text(), { flag: true, optional: true }),
    },
  }),
  command({
    ...described,
    name: 'label',
    args: { days: arg.integer({ flag: true, optional: true }), tool: arg.text(), note: arg.tail({ optional: true }) },
  }),
  command({
    ...described,
    name: 'lend',
    args: {
      tool: arg.text(),
      until: arg.datetime({ flag: true, optional: true }),
      on: arg.list(arg.datetime(), { flag: true, optional: true }),
      dryRun: arg.boolean({ flag: true }),
    },
  }),
  command({
    ...described,
    name: 'naps',
    args: { naps: arg.list(arg.duration(), { optional: true }), note: arg.tail({ optional: true }) },
  }),
  command({ ...described, name: 'invite', args: { who: arg.list(arg.member(), { max: 3 }) } }),
  command({
    ...described,
    name: 'sizes',
    args: { sizes: arg.list(arg.integer(), { optional: true }), note: arg.tail({ optional: true }) },
  }),
  command({ ...described, name: 'book', args: { from: arg.datetime(), until: arg.datetime() } }),
  command({ ...described, name: 'remind', args: { when: arg.datetime(), what: arg.tail({ optional: true }) } }),
  command({
    ...described,
    name: 'rent',
    args: {
      tool: arg.choice(['drill', 'hedge trimmer', 'ladder', 'ladder fork', 'pressure washer']),
      until: arg.until({ min: '1h', max: '12d', optional: true }),
      note: arg.tail({ optional: true }),
    },
  }),
  command({ ...described, name: 'agree', args: { sure: arg.boolean(), note: arg.tail({ optional: true }) } }),
  command({ ...described, name: 'plank', args: { length: arg.number(), unit: arg.text({ optional: true }) } }),
  command({ ...described, name: 'badge', args: { sign: arg.emoji() } }),
  command({ ...described, name: 'manual', args: { address: arg.url() } }),
  command({ ...described, name: 'trim', args: { pence: arg.integer({ max: 500, cap: true }) } }),
  command({
    ...described,
    name: 'discount',
    args: { share: arg.number({ percent: true, min: 0, max: 100 }), note: arg.tail({ optional: true }) },
  }),
  command({
    ...described,
    name: 'pay',
    args: {
      who: arg.member(),
      amount: arg.money({ currency: 'GBP', minor: ['p', 'pence', 'penny'], min: 1, max: 50_00 }),
      note: arg.tail({ optional: true }),
    },
  }),
  command({
    ...described,
    name: 'hand',
    args: { role: arg.role(), to: arg.member({ by: 'mention', optional: true }), note: arg.tail({ optional: true }) },
  }),
  command({
    ...described,
    name: 'damage',
    args: { tool: arg.text(), picture: arg.attachment({ types: ['image/*'], max: 20, optional: true }) },
  }),
];

export function grammarScene() {
  const clock = virtualClock(startOfAfternoon);
  const { world } = oddmereData();
  const withOldTobias = {
    ...world,
    people: [...world.people, { id: 'old-tobias', name: 'Old Tobias' }],
    guilds: world.guilds.map((guild) => ({
      ...guild,
      roles: [...(guild.roles ?? []), { name: 'Key holder', rank: 1 }],
      members: { ...guild.members, 'old-tobias': [] },
    })),
  };
  const platform = standIn(withOldTobias, { clock });
  const layer = createCommandLayer({
    commands: (layer) => [...grammarCommands, helpCommand(layer)],
    prefixes: ['!', '!!', 'mallet', '#'],
    prefixInDirect: 'optional',
    timeZone: 'Europe/London',
    languages: [polish(), japanese(), icuLanguage('de', {}, germanWords), icuLanguage('fr', {}, frenchWords)].map(
      readAlone,
    ),
    edits: '2m',
    clock,
    log: silentLog,
  });
  return { clock, platform, layer };
}

/** As a bot would have them, for the lines of docs/as-people-type.md. */
export const germanWords = {
  one: 'eins ein eine einer einem einen',
  two: 'zwei',
  three: 'drei',
  four: 'vier',
  five: 'fünf',
  half: 'halb halbe halben',
  '1.5': 'anderthalb',
  day: 'Tagen',
  morning: 'Vormittag morgens',
  afternoon: 'Nachmittag nachmittags',
  evening: 'Abend abends',
  noon: 'Mittag mittags',
  midnight: 'Mitternacht',
  on: 'am',
  at: 'um gegen',
  until: 'bis',
  for: 'für',
  next: 'nächsten nächste nächster',
  this: 'diesen dieser dieses',
  "o'clock": 'Uhr',
  yes: 'ja',
  no: 'nein',
} as const;

export const frenchWords = {
  one: 'un une',
  two: 'deux',
  three: 'trois',
  four: 'quatre',
  five: 'cinq',
  morning: 'matin',
  evening: 'soir',
  noon: 'midi',
  at: 'à',
  until: "jusqu'à",
  for: 'pendant pour',
  yes: 'oui',
  no: 'non',
} as const;

/** A language whose words are read, and which answers in English all the same. */
function readAlone({ locale, inEnglish }: Language): Language {
  return { ...english, locale, ...(inEnglish === undefined ? {} : { inEnglish }) };
}

/**
 * How docs/input-grammar.md writes what a line reads as.
 *
 * @param zone in which times are written, and lengths as people type them
 */
export function readingOf(outcome: Outcome, text: string, zone?: string): string {
  switch (outcome.status) {
    case 'ignored':
      return 'chat';
    case 'completed':
      return [
        outcome.command,
        ...Object.entries(outcome.args ?? {}).flatMap(([name, value]) => shownAs(name, value, zone)),
      ].join(' ');
    case 'invalid':
      return outcome.problems.map((problem) => problemOf(problem, text)).join(' + ');
    default:
      return 'code' in outcome ? outcome.code : outcome.status;
  }
}

function shownAs(name: string, value: unknown, zone: string | undefined): string[] {
  const isLength = zone !== undefined && (name === 'keep' || name === 'naps');
  return value === undefined ? [] : [`${name}=${shown(value, zone, isLength)}`];
}

function shown(value: unknown, zone?: string, isLength = false): string {
  if (value instanceof Date) return zone === undefined ? value.toISOString() : wallTime(value, zone);
  if (Array.isArray(value)) return `[${value.map((one) => shown(one, zone, isLength)).join(', ')}]`;
  if (typeof value === 'object' && value !== null && 'name' in value) return String(value.name);
  return isLength ? shortLength(Number(value)) : JSON.stringify(value);
}

function wallTime(value: Date, timeZone: string): string {
  return new Intl.DateTimeFormat('sv', { dateStyle: 'short', timeStyle: 'short', timeZone }).format(value);
}

function shortLength(ms: number): string {
  const minutes = ms / 60_000;
  const counts = [Math.floor(minutes / 1440), Math.floor(minutes / 60) % 24, minutes % 60];
  return counts.map((count, index) => (count === 0 ? '' : `${count}${'dhm'[index]}`)).join('');
}

function problemOf({ code, parameters, span }: Problem, text: string): string {
  const argument = 'argument' in parameters && parameters.argument !== undefined ? ` ${parameters.argument}` : '';
  return `${code}${argument}${span === undefined ? '' : ` at ${JSON.stringify(text.slice(span.start, span.end))}`}`;
}

/** On a page, a line break is ⏎, a space that is easily overlooked ␣, and what nobody would see <U+200B>. */
export function unhidden(typed: string): string {
  const hidden = /<U\+([0-9A-F]+)>/g;
  return typed
    .replaceAll('⏎', '\n')
    .replaceAll('␣', ' ')
    .replace(hidden, (_, code) => String.fromCodePoint(Number.parseInt(code, 16)));
}
