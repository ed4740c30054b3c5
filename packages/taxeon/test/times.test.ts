/** What is typed of a time is never cut, and what a language shows of one can be typed in it. */
import { icuLanguage, japanese, polish } from '@taxeon/icu';
import fc from 'fast-check';
import { arg, command, createCommandLayer, type Language } from 'taxeon';
import { complete } from 'taxeon/queries';
import { describe, expect, test } from 'vitest';
import { frenchWords, germanWords } from '../../../test/support/grammar.js';
import { codeOf, oddmere, sceneOf, silentLog, startOfAfternoon } from '../../../test/support/oddmere.js';

const german = () => icuLanguage('de', {}, germanWords);
const french = () => icuLanguage('fr', {}, frenchWords);
const languages: readonly Language[] = [polish(), japanese(), german(), french()];

const run = () => 'done';
const note = { note: arg.tail({ optional: true }) };
const zero = arg.duration({ min: '0s', optional: true });
const commands = [
  command({ name: 'remind', description: 'Remind', args: { when: arg.datetime(), ...note }, run }),
  command({ name: 'rent', description: 'Rent', args: { when: arg.until({ optional: true }), ...note }, run }),
  command({ name: 'borrow', description: 'Borrow', args: { keep: arg.duration({ optional: true }), ...note }, run }),
  command({ name: 'agree', description: 'Agree', args: { sure: arg.boolean() }, run }),
  command({
    name: 'soon',
    description: 'Soon',
    args: { when: arg.until({ min: '1h', max: '3h', default: '2h' }), ...note },
    run,
  }),
];

async function scene(locale?: string) {
  const options = { timeZone: 'Europe/London', languages, log: silentLog, prefixes: ['!'] } as const;
  const own = await oddmere(({ clock }) => createCommandLayer({ ...options, commands, clock, damping: 'off' }));
  return {
    ...own,
    says: async (text: string) => {
      const doing = { person: 'ines', place: 'oddmere/counter', text, ...(locale === undefined ? {} : { locale }) };
      return (await own.platform.send(own.platform.typed(doing))).outcome;
    },
  };
}

type Said = Awaited<ReturnType<Awaited<ReturnType<typeof scene>>['says']>>;

/** Whether something else than the whole note is left for it. */
function isCut(outcome: Said): boolean {
  const { note = '' } = argsOf(outcome);
  return note !== '' && note !== 'for the fence';
}

function argsOf(outcome: Said): { readonly when?: Date; readonly keep?: number; readonly note?: string } {
  return outcome.status === 'completed' ? (outcome.args ?? {}) : {};
}

/** Words with which a day, a time or a length may go on. */
const goingOn: Readonly<Record<string, string>> = {
  hours: '0 5 9 12 17 23 5pm 5am 17h 17h30 1700 17:00 5:30pm noon midnight at_5 at_five at_17 at_17:00 at_noon',
  numbers: 'one two three four five six seven eight nine ten eleven twelve',
  parts: 'morning afternoon evening night in_the_morning in_the_evening at_night',
  ranges: '17:00-18:00 17:00–18:00 5-6pm 10-11 from_5_to_6 17:00_to_18:00 17:00_until_18:00',
};
const days: Readonly<Record<string, string>> = {
  en: 'today tomorrow monday fri 2026-05-12 31/12 25_december dec_25th the_15th in_2_days day_after_tomorrow',
  pl: 'jutro pojutrze w_piątek w_środę 5_maja za_dwa_dni',
  de: 'morgen übermorgen Freitag 5._Mai in_zwei_Tagen',
  fr: 'demain après-demain vendredi dans_2_jours',
  ja: '明日 明後日 金曜日 12月24日',
};
const spaced = (words: string) => words.split(' ').map((word) => word.replaceAll('_', ' '));

describe('a time is never cut, with the rest of it as a note', () => {
  test.each(Object.keys(days))('behind a day in %s', async (locale) => {
    const { says } = await scene(locale);
    const cut: string[] = [];
    for (const day of spaced(days[locale] ?? '')) {
      for (const name of ['remind', 'rent']) {
        for (const more of Object.values(goingOn).flatMap(spaced)) {
          // `25 december 17` is an hour, and `in 2 days 5` is two numbers.
          const line = `!${name} ${day} ${more} for the fence`;
          if (isCut(await says(line))) cut.push(line);
        }
      }
    }
    expect(cut).toEqual([]);
  });

  test('behind a time', async () => {
    const { says } = await scene();
    const cut: string[] = [];
    const more = [
      'pm',
      'UTC',
      'utc+2',
      'UTC -3',
      '-18:00',
      '– 18:00',
      'to 18:00',
      'until 6pm',
      'in the evening',
      'CEST',
    ];
    for (const time of ['tomorrow 5:00', 'friday 5', 'at 5', '2026-05-12 5:00']) {
      for (const one of [...more, 'Europe/Warsaw']) {
        const line = `!remind ${time} ${one} for the fence`;
        if (isCut(await says(line))) cut.push(line);
      }
    }
    expect(cut).toEqual([]);
  });

  const inDigits = ['2', '2½', '1,5', '2-3'];
  const inWords = ['two', 'a', '2 or 3', '2 and a half', 'a few', 'a couple of', 'several'];
  const units: Readonly<Record<string, string>> = {
    en: 'days hours weeks minutes d h months years',
    pl: 'dni godziny tygodnie minut',
    de: 'Tage Stunden Wochen Minuten',
    fr: 'jours heures semaines minutes',
  };

  test.each(Object.keys(units))('nor is a length in %s', async (locale) => {
    const { says } = await scene(locale);
    const cut: string[] = [];
    for (const unit of spaced(units[locale] ?? '')) {
      for (const count of locale === 'en' ? [...inDigits, ...inWords] : inDigits) {
        for (const behind of [
          '',
          ' 30 min',
          ...(locale === 'en' ? [' and a half', ' and 30 minutes', ' 2 seconds'] : []),
        ]) {
          const line = `!borrow ${count} ${unit}${behind} for the fence`;
          if (isCut(await says(line))) cut.push(line);
        }
      }
    }
    expect(cut).toEqual([]);
  });

  test('and what is no time, or no number, is refused as a whole', async () => {
    const { says } = await scene();
    for (const typed of ['a while', 'next week', 'next month', 'the weekend', 'until monday']) {
      for (const name of typed.startsWith('until')
        ? ['borrow']
        : typed === 'the weekend'
          ? ['rent']
          : ['rent', 'borrow']) {
        const outcome = await says(`!${name} ${typed} for the fence`);
        expect([name, outcome]).toMatchObject([name, { code: 'argument.invalid', parameters: { read: typed } }]);
      }
    }
  });
});

test('what only begins like a time is a note', async () => {
  const english =
    'a new blade|a few screws|some screws|one of ours|second coat|the big one|until it rains|until the rain';
  const others = '-2 screws|by the door|about time|weekend use|next to the shed|while it is dry|at home|over the river';
  for (const [locale, notes] of [
    ['en', `${english}|${others}`],
    ['pl', 'do szopy|na płot|w szopie|za płotem|to jest pilne'],
    ['ja', '日曜大工|時間がない'],
  ] as const) {
    const { says } = await scene(locale);
    for (const note of notes.split('|')) {
      for (const name of ['borrow', 'rent']) {
        const outcome = await says(`!${name} ${note}`);
        expect([name, note, outcome.status === 'completed' && outcome.args]).toEqual([name, note, { note }]);
      }
    }
  }
});

test.each([
  ['ja', '午後3時', '2026-05-09T14:00:00.000Z'],
  ['ja', '明日午前9時半', '2026-05-10T08:30:00.000Z'],
])('in %s, %s is read', async (locale, text, moment) => {
  const { says } = await scene(locale);
  expect(argsOf(await says(`!remind ${text} x`)).when?.toISOString()).toBe(moment);
});

test('what lies beyond all calendars is refused, and no handler gets a date that is none', async () => {
  const { says } = await scene();
  for (const length of ['14500000w', '14800000 w', '100000000 days', '9000000 weeks']) {
    for (const line of [
      `!rent ${length}`,
      `!rent for ${length}`,
      `!remind in ${length}`,
      `!remind in ${length} at 17:00`,
    ])
      expect([line, codeOf(await says(line))]).toEqual([line, 'argument.invalid']);
  }
});

test('what makes no sense is refused', async () => {
  const { says } = await scene();
  for (const typed of ['this today', 'next tomorrow', 'this tonight at 8', 'tomorrow at 5/6', 'at 5/6'])
    expect([typed, codeOf(await says(`!remind ${typed}`))]).toEqual([typed, 'argument.invalid']);
  expect(argsOf(await says('!remind tonight midnight')).when?.toISOString()).toBe('2026-05-09T23:00:00.000Z');
});

test('an hour alone goes with its day in a list, and to the next argument that awaits a number', async () => {
  const all = command({ name: 'all', description: 'All', args: { when: arg.list(arg.datetime()) }, run });
  const give = command({
    name: 'give',
    description: 'Give',
    args: { when: arg.datetime(), count: arg.integer() },
    run,
  });
  const { types } = await sceneOf([all, give]);
  const hours = ['2026-05-15T17:00:00.000Z', '2026-05-16T18:00:00.000Z'];
  const { outcome } = await types('ines', '!all friday 17, saturday 16 may 18');
  expect(JSON.parse(JSON.stringify('args' in outcome ? outcome.args : outcome))).toEqual({ when: hours });
  expect((await types('ines', '!give friday 17')).outcome).toMatchObject({ args: { count: 17 } });
});

test('a refusal shows a moment that would do, also where it must be soon', async () => {
  const when = arg.datetime({ min: { fromNow: '10s' }, max: { fromNow: '20s' } });
  const scene = await sceneOf([command({ name: 'soon', description: 'Soon', args: { when }, run })]);
  const { outcome } = await scene.types('ines', '!soon tomorrow');
  const { expected } = ('parameters' in outcome ? outcome.parameters : {}) as { expected: { parameters: object } };
  const { example } = expected.parameters as { example: string };
  expect([example, (await scene.types('ines', `!soon ${example}`)).outcome.status]).toEqual([example, 'completed']);
});

test('an hour alone may be two, and that is asked; what can be one is said back', async () => {
  const { says } = await scene();
  expect(codeOf(await says('!remind tomorrow at 5'))).toBe('argument.ambiguous');
  expect(await says('!remind friday 17 tea')).toMatchObject({
    status: 'completed',
    reply: { notice: { details: ['“when”: “friday 17” is read as 2026-05-15 17:00.'] } },
  });
  // A day of the week is today where that is still to come.
  expect(argsOf(await says('!remind saturday 17:00')).when?.toISOString()).toBe('2026-05-09T16:00:00.000Z');
  expect(argsOf(await says('!remind saturday 9:00')).when?.toISOString()).toBe('2026-05-16T08:00:00.000Z');
});

describe('until when', () => {
  test.each([
    ['!rent 2 days for the fence', '2026-05-11T13:00:00.000Z'],
    ['!rent for 2 days', '2026-05-11T13:00:00.000Z'],
    ['!rent till monday 17:00', '2026-05-11T16:00:00.000Z'],
    ['!rent until the 15th', '2026-05-14T23:00:00.000Z'],
    ['!soon', '2026-05-09T15:00:00.000Z'],
    ['!soon 90m', '2026-05-09T14:30:00.000Z'],
  ])('%s', async (line, until) => {
    expect(argsOf(await (await scene()).says(line)).when?.toISOString()).toBe(until);
  });

  test('bounds are lengths of time from now, and a refusal shows a time that would do', async () => {
    const { says } = await scene();
    for (const line of ['!soon 4h', '!soon 10m', '!soon tomorrow', '!soon a while', '!soon monday evening']) {
      const outcome = await says(line);
      expect([line, codeOf(outcome)]).toEqual([line, 'argument.invalid']);
      const { body = '' } = 'reply' in outcome ? (outcome.reply?.notice ?? {}) : {};
      const [example = ''] = /2026-05-\d\d \d\d:\d\d/.exec(body) ?? [];
      if (line !== '!soon monday evening')
        expect([line, (await says(`!soon ${example}`)).status]).toEqual([line, 'completed']);
    }
  });

  test('declarations that mean nothing are refused', () => {
    const wrong = [{ min: '3d', max: '1d' }, { default: '3x' }, { default: '9d', max: '3d' }, { min: 'monday' }];
    for (const options of wrong) {
      // @ts-expect-error as JavaScript allows
      const bad = command({ name: 'bad', description: 'Bad', args: { when: arg.until(options) }, run });
      expect(() => createCommandLayer({ commands: [bad] })).toThrow();
    }
  });

  test('and completion offers times that read', async () => {
    const { layer, platform, says } = await scene();
    for (const [name, locale] of [
      ['rent', 'en'],
      ['remind', 'en'],
      ['rent', 'pl'],
      ['soon', 'ja'],
    ] as const) {
      const text = `!${name} `;
      const typed = platform.typed({ person: 'ines', place: 'oddmere/counter', text, locale });
      const offered = (await complete(layer, typed, text.length, platform)).filter(({ kind }) => kind === 'value');
      if (name !== 'soon') expect(offered.length).toBeGreaterThan(3);
      for (const { text: value } of offered) expect((await says(`${text}${value}`)).status).toBe('completed');
    }
  });
});

describe('what a language shows as an answer is read in it', () => {
  test.each(languages.map((language) => [language.locale, language] as const))('%s', async (locale, { words }) => {
    const { says } = await scene(locale);
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(1, 60, 3600, 86_400, 7 * 86_400),
        fc.integer({ min: 1, max: 59 }),
        async (unit, count) => {
          const ms = unit * count * 1000;
          const shown = words.duration(ms);
          expect([shown, argsOf(await says(`!borrow ${shown}`)).keep]).toEqual([shown, ms]);
        },
      ),
      { numRuns: 200 },
    );
    const dated = new Intl.DateTimeFormat(locale, { day: 'numeric', month: 'long', timeZone: 'Europe/London' });
    const weekday = new Intl.DateTimeFormat(locale, { weekday: 'long', timeZone: 'Europe/London' });
    const relative = new Intl.RelativeTimeFormat(locale, { numeric: 'auto' });
    for (let day = 1; day < 366; day++) {
      const at = new Date(startOfAfternoon + day * 86_400_000);
      const texts = [
        dated.format(at),
        ...(day < 7 ? [weekday.format(at)] : []),
        ...(day < 3 ? [relative.format(day, 'day')] : []),
      ];
      for (const text of texts) {
        const { when } = argsOf(await says(`!remind ${text}`));
        expect([text, when && dated.format(when)]).toEqual([text, dated.format(at)]);
      }
    }
  });

  test.each([
    ['pl', 'tak', 'nie'],
    ['ja', 'はい', 'いいえ'],
    ['de', 'ja', 'nein'],
  ])('yes and no in %s', async (locale, yes, no) => {
    const { says } = await scene(locale);
    for (const [typed, sure] of [
      [yes, true],
      [no, false],
    ] as const)
      expect((await says(`!agree ${typed}`)) as object).toMatchObject({ args: { sure } });
  });
});

test('a small number is the same, typed and chosen; what is raised is no digit, and nothing is no length', async () => {
  const plank = command({ name: 'plank', description: 'Cut', args: { length: arg.number() }, run });
  const fine = command({ name: 'fine', description: 'Fine', args: { pence: arg.integer() }, run });
  const nap = command({ name: 'nap', description: 'Nap', args: { keep: arg.duration(), least: zero }, run });
  const scene = await sceneOf([plank, fine, nap]);
  expect((await scene.types('ines', '!plank 0.0000001')).outcome).toMatchObject({ args: { length: 1e-7 } });
  expect((await scene.invokes('ines', 'plank', { length: 1e-7 })).outcome).toMatchObject({ args: { length: 1e-7 } });
  for (const line of ['!fine 5²', '!fine 10⁵', '!plank ③', '!nap 0s'])
    expect([line, codeOf((await scene.types('ines', line)).outcome)]).toEqual([line, 'argument.invalid']);
  expect((await scene.types('ines', '!nap 1s 0s')).outcome).toMatchObject({ args: { least: 0 } });
});
