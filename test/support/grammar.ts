/** The commands that the examples of docs/input-grammar.md call, and how a reading is written down there. */

import { icuLanguage } from '@taxeon/icu';
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
    languages: ['pl', 'de'].map(readAlone),
    edits: '2m',
    clock,
    log: silentLog,
  });
  return { clock, platform, layer };
}

/** A language whose words are read, and which answers in English all the same. */
function readAlone(locale: string): Language {
  const { inEnglish } = icuLanguage(locale, {});
  return { ...english, locale, ...(inEnglish === undefined ? {} : { inEnglish }) };
}

/** How docs/input-grammar.md writes what a line reads as. */
export function readingOf(outcome: Outcome, text: string): string {
  switch (outcome.status) {
    case 'ignored':
      return 'chat';
    case 'completed':
      return [
        outcome.command,
        ...Object.entries(outcome.args ?? {}).flatMap(([name, value]) => shownAs(name, value)),
      ].join(' ');
    case 'invalid':
      return outcome.problems.map((problem) => problemOf(problem, text)).join(' + ');
    default:
      return 'code' in outcome ? outcome.code : outcome.status;
  }
}

function shownAs(name: string, value: unknown): string[] {
  return value === undefined ? [] : [`${name}=${shown(value)}`];
}

function shown(value: unknown): string {
  if (value instanceof Date) return value.toISOString();
  if (Array.isArray(value)) return `[${value.map(shown).join(', ')}]`;
  if (typeof value === 'object' && value !== null && 'name' in value) return String(value.name);
  return JSON.stringify(value);
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
