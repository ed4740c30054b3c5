/** What an argument expects, as data, so that every language can say it in its own words. */

/** The developer's own words, or those of a kind of the library. */
export type Expectation = string | Expected;

/** The developer's own words for what is expected: for everyone, or by locale. */
export type OwnExpected = string | Readonly<Record<string, string>>;

/** What an argument takes, to be told in any language. */
export interface Expected {
  /** Names its words in other languages, as `expected.KEY`. */
  readonly key: string;
  /** What its words are about, as each language says it. */
  readonly parameters: Readonly<Record<string, ExpectedValue>>;
  /** In English, in words that follow "takes": `a whole number from 1 to 500`. */
  readonly english: string;
  /** The developer's own words, by locale. */
  readonly own?: Readonly<Record<string, string>>;
}

/** The first of several languages is told where none of them is the reader's. */
export function ownExpectation(own: OwnExpected): Expectation {
  // Types do not hold in JavaScript.
  if (typeof own !== 'object' || own === null) return own;
  return { key: 'own', parameters: {}, english: own['en'] ?? Object.values(own)[0] ?? '', own };
}

/** An amount of money, in the currency's main unit. */
export interface Money {
  readonly amount: number;
  /** ISO 4217. */
  readonly currency: string;
}

/** As it stands; a length of time; an amount of money; one of several; or what each of several values is. */
export type ExpectedValue =
  | string
  | number
  | { readonly ms: number }
  | Money
  | { readonly oneOf: readonly string[] }
  | { readonly each: Expectation };

/** @param locale BCP 47 */
export function moneyInWords({ amount, currency }: Money, locale: string): string {
  return new Intl.NumberFormat(locale, { style: 'currency', currency, currencyDisplay: 'narrowSymbol' }).format(amount);
}

/** The most there may be of something: the developer's own words, a number, or a length of time. */
export type Amount = string | number | { readonly ms: number };

export function expectedInEnglish(expected: Expectation): string {
  return typeof expected === 'string' ? expected : expected.english;
}
