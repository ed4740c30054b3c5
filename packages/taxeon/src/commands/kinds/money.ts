import { byLocale } from '../../base/by-locale.js';
import { aNumber, aText, type Fields, texts } from '../../base/fields.js';
import { isJoiner } from '../../base/joiner.js';
import { moneyInWords } from '../../contract/expectation.js';
import { type ArgOf, type ArgOptions, type DefaultOf, type Exactly, makeArg } from '../arg.js';
import { Apart, isApart, isMisread, isReadAs, type Kind, mistaken, notOfShape } from '../kind.js';
import { bounded, boundProblems } from './bounds.js';
import { goesOnGroups, groupSign, inAscii, inPlainDigits, MOST_GROUPS } from './digits.js';
import { ranging } from './expected.js';
import { present } from './schema.js';

export interface MoneyOptions extends ArgOptions<DefaultOf<number>> {
  /** ISO 4217: `'GBP'`. */
  readonly currency: string;
  /** Words for its smallest unit, where people use it: `['p', 'pence', 'penny']`. */
  readonly minor?: readonly string[];
  /** In the currency's smallest unit. */
  readonly min?: number;
  /** In the currency's smallest unit. */
  readonly max?: number;
}

const fields: Fields<Omit<MoneyOptions, keyof ArgOptions<unknown>>> = {
  currency: aText,
  minor: texts,
  min: aNumber,
  max: aNumber,
};

/**
 * An amount of money in one currency: `3.50`, `£3.50`, `3,50 GBP`, `3 pounds`, `50p`. The handler gets a whole number
 * of the currency's smallest unit, 350 for £3.50, which adds up exactly. Its sign, its code and the words of its name are
 * those of the runtime's own language data; an amount in another currency is refused.
 *
 * @example
 * arg.money({ description: 'What was paid', currency: 'GBP', minor: ['p', 'pence', 'penny'], min: 1, max: 50_00 })
 */
export function money<const Options extends MoneyOptions>(
  options: Exactly<Options, MoneyOptions>,
): ArgOf<number, 'money', Options> {
  const { currency, minor = [], min, max } = (options ?? {}) as Partial<MoneyOptions>;
  const problems = [...boundProblems({ ...present({ min, max }) }, Number.isSafeInteger, 'a whole number')];
  const isCurrency = typeof currency === 'string' && Intl.supportedValuesOf('currency').includes(currency);
  if (!isCurrency)
    problems.push(`has \`currency: ${JSON.stringify(currency)}\`; give a code of ISO 4217 such as 'GBP'`);
  const words = Array.isArray(minor) ? minor : [];
  const kind = moneyKind(isCurrency ? currency : 'XXX', words, min, max);
  return makeArg('money', kind, options as Options, problems, fields);
}

const LONGEST = 60;
const bothForm = /^(.*\S)\s+(\d{1,3})(?:\s*([^\d\s.,]+))?$/;
const form =
  /^([+-]?)(?:(?<before>[^\d\s.,+-]+)\s*)?([+-]?)(?<digits>\d[\d.,\s’']*?|\.\d+)\s*(?<behind>[^\d\s.,][^\d\s,]*)?$/;

function moneyKind(
  currency: string,
  minor: readonly string[],
  min: number | undefined,
  max: number | undefined,
): Kind<number> {
  const fit = bounded({ ...present({ min, max }) });
  const decimals = decimalsOf(currency);
  const minorUnits = new Set(minor.map((word) => word.toLowerCase()));
  const unitsOf = byLocale((locale) => unitsIn(locale, currency));
  const isUnit = (word: string, locale: string | undefined) => {
    const lower = word.toLowerCase();
    return minorUnits.has(lower) || unitsOf('en')?.has(lower) === true || unitsOf(locale)?.has(lower) === true;
  };
  const expected = expectedMoney(currency, min, max, (amount) => ({ amount: amount / 10 ** decimals, currency }));
  const ofOtherCurrency = mistaken(expected);
  const isForeign = (word: string, locale: string | undefined) => {
    const lower = word.toLowerCase();
    if (isUnit(word, locale)) return false;
    return isCode(word) || othersIn('en')?.has(lower) === true || othersIn(locale)?.has(lower) === true;
  };

  /** In the smallest unit; `undefined` where it has more decimals than the currency. */
  function smallest(plain: string): number | undefined {
    const [, sign, whole = '', part = ''] = /^([+-]?)(\d*)(?:\.(\d+))?$/.exec(plain) ?? [];
    if (sign === undefined || part.length > decimals) return undefined;
    const amount = Number(`${whole}${part.padEnd(decimals, '0')}`);
    return Number.isSafeInteger(amount) ? (sign === '-' ? -amount : amount) + 0 : undefined;
  }

  /** `5 pounds and 50 pence`: both, where the second is of the smallest unit and less than one of the first. */
  function readBoth(typed: string, locale: string | undefined) {
    const [, front = '', second = '', unit] = bothForm.exec(inAscii(typed)) ?? [];
    const lastWord = front.lastIndexOf(' ') + 1;
    const isJoined = lastWord > 0 && isJoiner(front.slice(lastWord), locale);
    const first = isJoined ? front.slice(0, lastWord).trim() : front;
    const main = first === '' ? notOfShape : readOne(first, locale);
    if (typeof main !== 'number' || !/[^\d\s.,]/.test(first) || main % 10 ** decimals !== 0) return notOfShape;
    if (unit === undefined ? isJoined || second.length !== decimals : !minorUnits.has(unit.toLowerCase()))
      return notOfShape;
    const both = main + Math.sign(main || 1) * Number(second);
    if (Number(second) >= 10 ** decimals) return notOfShape;
    // Without its unit, it could be a number of something else.
    return unit === undefined
      ? new Apart(fit(both), [inDecimals(both, decimals), inDecimals(main, decimals)], false)
      : fit(both);
  }

  function readMoney(typed: string, locale: string | undefined) {
    if (typed.length > LONGEST) return notOfShape;
    const one = readOne(typed, locale);
    if (one === notOfShape) return readBoth(typed, locale);
    return typeof one === 'number' ? fit(one) : one;
  }

  function readOne(typed: string, locale: string | undefined) {
    const match = form.exec(inAscii(typed));
    const { before, digits = '', behind } = match?.groups ?? {};
    const [, sign = '', , innerSign = ''] = match ?? [];
    if (match === null || (sign !== '' && innerSign !== '') || (before !== undefined && behind !== undefined))
      return notOfShape;
    const unit = before ?? behind;
    if (unit !== undefined && !isUnit(unit, locale)) return isForeign(unit, locale) ? ofOtherCurrency : notOfShape;
    const isMinor = unit !== undefined && minorUnits.has(unit.toLowerCase());
    // Three digits behind a sign are no decimals of a currency that has two.
    const [, sign3] = decimals === 3 ? [] : (/^\d{1,3}([.,])\d{3}$/.exec(digits) ?? []);
    if (sign3 !== undefined && sign3 !== groupSign(locale)) return notOfShape;
    const read = sign3 === undefined ? inPlainDigits(digits, locale) : digits.replace(sign3, '');
    if (isMisread(read)) return read;
    const plain = `${sign}${innerSign}${isReadAs(read) || isApart(read) ? read.value : read}`;
    const amount = isMinor ? (/^[+-]?\d+$/.test(plain) ? Number(plain) : undefined) : smallest(plain);
    if (amount === undefined || !Number.isSafeInteger(amount)) return notOfShape;
    // Behind a sign, the rest may be of something else: `£5 100 screws`.
    const mayBeTwo = isApart(read) && behind === undefined;
    return mayBeTwo ? new Apart(fit(amount), read.matches, read.isUsual) : amount;
  }

  /** `and` behind `5 pounds`, `50` or `50p` behind that, and `pence` behind that. */
  function goesOnBoth(word: string, typed: string, locale: string | undefined): boolean {
    if (minorUnits.size === 0) return false;
    const isJoined = isJoiner(typed.slice(typed.lastIndexOf(' ') + 1), locale);
    if (minorUnits.has(word.toLowerCase()) || (!isJoined && isJoiner(word, locale))) return true;
    const [, digits, unit = ''] = /^(\d{1,3})([^\d\s.,]*)[.,;:!?]*$/.exec(word) ?? [];
    return digits !== undefined && (unit === '' || minorUnits.has(unit.toLowerCase()));
  }

  return {
    name: 'money',
    expected,
    traits: { readsAlone: true },
    example: inDecimals(min ?? Math.min(350, max ?? 350), decimals),
    tokens: MOST_GROUPS + 1,
    leavesQuoted: true,
    shape: (typed, context) => {
      const text = inAscii(typed.slice(0, LONGEST));
      if (/^[+-]?\.?\d/.test(text)) return true;
      const unit = /^[+-]?([^\d\s.,+-]+)\s*[+-]?\.?\d/.exec(text)?.[1];
      return unit !== undefined && isUnit(unit, context?.locale);
    },
    begins: (word, { locale }) => /\d[\d.,]*$/.test(inAscii(word)) || isUnit(word, locale),
    goesOn: (word, typed, { locale }) => {
      if (typed.length > LONGEST || word.length > LONGEST) return false;
      const digits = typed.replace(/^[^\d.]+/, '');
      if (digits === '') return /^[+-]?\.?\d/.test(word);
      const isNamed = digits.length < typed.replace(/^[+-]/, '').length;
      if (!/\d$/.test(digits) || (isNamed && !goesOnGroups(word, digits))) return goesOnBoth(word, digits, locale);
      const next = word.replace(/(?<=.)[.,;:!?]+$/, '');
      return goesOnGroups(word, digits) || (!isNamed && (isUnit(next, locale) || isForeign(next, locale)));
    },
    read: (typed, { locale }) => readMoney(typed, locale),
    take: (value) => (Number.isSafeInteger(value) ? fit(value as number) : notOfShape),
    write: (value) => inDecimals(value, decimals),
    shown: (value) => inDecimals(value, decimals),
    isValue: (value) => Number.isSafeInteger(value) && fit(value as number) === value,
  };
}

function expectedMoney(
  currency: string,
  min: number | undefined,
  max: number | undefined,
  asValue: (amount: number) => { readonly amount: number; readonly currency: string },
) {
  const inWords = (amount: number) => moneyInWords(asValue(amount), 'en');
  const { key, parameters, english } = ranging('money', `an amount in ${currency}`, { min, max }, inWords, asValue);
  return { key, parameters: { ...parameters, currency }, english };
}

function inDecimals(amount: number, decimals: number): string {
  const digits = String(Math.abs(amount)).padStart(decimals + 1, '0');
  const whole = digits.slice(0, digits.length - decimals);
  return `${amount < 0 ? '-' : ''}${whole}${decimals === 0 ? '' : `.${digits.slice(-decimals)}`}`;
}

function decimalsOf(currency: string): number {
  return new Intl.NumberFormat('en', { style: 'currency', currency }).resolvedOptions().maximumFractionDigits ?? 2;
}

/** What may stand beside an amount, in small letters: the currency's code, its signs, and the words of its name. */
function unitsIn(locale: string, currency: string): ReadonlySet<string> {
  const found = new Set<string>([currency.toLowerCase()]);
  for (const currencyDisplay of ['symbol', 'narrowSymbol', 'name'] as const) {
    const format = new Intl.NumberFormat(locale, { style: 'currency', currency, currencyDisplay });
    for (const amount of [1, 2, 5, 1.5]) {
      for (const { type, value } of format.formatToParts(amount)) {
        if (type === 'currency') for (const word of value.toLowerCase().split(/\s+/)) found.add(word);
      }
    }
  }
  return found;
}

/** As people type them: in capitals, `EUR`. */
const isCode = (word: string) => /^[A-Z]{3}$/.test(word) && Intl.supportedValuesOf('currency').includes(word);

/** Those whose names people type, so that `3 euros` are never three pounds; of rarer ones, the code. */
const wellKnown = 'EUR USD GBP JPY CHF PLN CNY INR SEK CZK HUF BRL KRW MXN UAH ILS THB'.split(' ');

const othersIn = byLocale(
  (locale) =>
    new Set(wellKnown.flatMap((code) => [code.toLowerCase(), ...[...unitsIn(locale, code)].filter(isTelling)])),
);

/** `us` of `US dollars` is a word of its own. */
const isTelling = (word: string) => word.length > 3 || !/^\p{L}+$/u.test(word) || word === 'yen';
