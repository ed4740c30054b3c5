/** Reading what a developer wrote: types do not hold in JavaScript, and a misspelt field would be left out in silence. */
import { parseAllowance } from './allowance.js';
import { isLocale } from './locale.js';
import { nearNames } from './near.js';
import { isSaid } from './text.js';
import { durationMs } from './time.js';

/** What to give in place of a value; `undefined` where that is of the right form. */
export type FieldForm = (value: unknown) => string | undefined;

/** All fields that there are, with the form of each. */
export type Fields<Of> = { readonly [Name in keyof Required<Of>]: FieldForm };

/** Tells one problem: the field, and what is wrong and mends it. */
export type TellField = (field: string, problem: string) => void;

/** A given value, in a word. */
export function shown(value: unknown): string {
  if (typeof value === 'function') return 'a function';
  if (Array.isArray(value)) return 'a list';
  if (typeof value === 'object' && value !== null) return 'an object';
  return typeof value === 'string' ? JSON.stringify(value.slice(0, 40)) : String(value);
}

export function isRecord(value: unknown): value is Readonly<Record<string, unknown>> {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

/** What was thrown, in a word. */
export function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}

/**
 * Tells fields that there are not, with the near one, and values of another form. Gives whether all is right. Hot path:
 * bench/rows/catalogue.
 *
 * @example
 * const fields: Fields<{ host: string; port?: number }> = {
 *   host: forms.text,
 *   port: forms.of('a whole number', Number.isInteger),
 * };
 * checkFields({ hots: 'localhost' }, fields, (field, problem) => console.error(`${field} ${problem}`)); // … write host
 */
export function checkFields(given: unknown, fields: Readonly<Record<string, FieldForm>>, tell: TellField): boolean {
  if (!isRecord(given)) {
    tell('', `is ${shown(given)}; give an object`);
    return false;
  }
  let isRight = true;
  for (const name of Object.keys(given)) {
    const value = given[name];
    const form = Object.hasOwn(fields, name) ? fields[name] : undefined;
    const wanted = form === undefined || value === undefined ? undefined : form(value);
    if (form !== undefined && wanted === undefined) continue;
    isRight = false;
    tell(name, form === undefined ? unknownField(name, fields) : `is ${shown(value)}; give ${wanted}`);
  }
  return isRight;
}

function unknownField(name: string, fields: Readonly<Record<string, FieldForm>>): string {
  const known = Object.keys(fields);
  const [near = known.find((one) => name.length > 2 && one.startsWith(name))] = nearNames(name, known);
  return near === undefined ? 'there is no such field; leave it out' : `there is no such field; write ${near}`;
}

/** A form by what to give, and what is so. */
const of =
  (what: string, is: (value: unknown) => boolean): FieldForm =>
  (value) =>
    is(value) ? undefined : what;

export const anything: FieldForm = () => undefined;
export const aText = of('a text', (value) => typeof value === 'string');
export const aTextOrFunction = of(
  'a text or a function',
  (value) => typeof value === 'string' || typeof value === 'function',
);
export const aSaidText = of('a text that says something', isSaid);
export const aFlag = of('true or false', (value) => typeof value === 'boolean');
export const aNumber = of('a number', (value) => typeof value === 'number' && !Number.isNaN(value));
export const aFunction = of('a function', (value) => typeof value === 'function');
export const aList = of('a list', Array.isArray);
export const texts = of(
  'a list of texts',
  (value) => Array.isArray(value) && value.every((one) => typeof one === 'string'),
);
export const anObject = of('an object', isRecord);
export const textByLocale = of('a text, or texts by locale', (value) => {
  if (typeof value !== 'object' || value === null) return isSaid(value);
  const texts = Object.entries(value);
  return texts.length > 0 && texts.every(([locale, text]) => isLocale(locale) && isSaid(text));
});
export const aDuration = of("a duration such as '30s'", (value) => !!durationMs(value));

export function oneOf(...all: readonly unknown[]): FieldForm {
  return of(`one of ${all.map((one) => JSON.stringify(one)).join(', ')}`, (value) => all.includes(value));
}

/** An object whose values are all of one form. */
export function eachOf(form: FieldForm, what: string): FieldForm {
  return of(what, (value) => isRecord(value) && Object.values(value).every((one) => form(one) === undefined));
}

/** What options may be, for who reads those of an adapter or a store. */
export const forms = {
  allowance: of("how many in how long, such as '5 in 10s'", (value) => parseAllowance(value) !== undefined),
  anything,
  duration: aDuration,
  flag: aFlag,
  function: aFunction,
  object: anObject,
  text: aText,
  texts,
  clock: of('a clock', (value) => typeof Object(value).now === 'function'),
  /** One of the developer's own: what to give in place of all that is not so. */
  of,
} as const;
