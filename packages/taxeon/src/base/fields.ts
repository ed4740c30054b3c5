/** Reading what a developer wrote: types do not hold in JavaScript, and a misspelt field would be left out in silence. */
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
 * Fields that there are not, with the near one, and values of another form. Whether all is right. Hot path:
 * bench/rows/catalogue.
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

const of =
  (is: (value: unknown) => boolean, what: string): FieldForm =>
  (value) =>
    is(value) ? undefined : what;

export const anything: FieldForm = () => undefined;
export const aText = of((value) => typeof value === 'string', 'a text');
export const aSaidText = of(isSaid, 'a text that says something');
export const aFlag = of((value) => typeof value === 'boolean', 'true or false');
export const aNumber = of((value) => typeof value === 'number' && !Number.isNaN(value), 'a number');
export const aFunction = of((value) => typeof value === 'function', 'a function');
export const aList = of(Array.isArray, 'a list');
export const texts = of(
  (value) => Array.isArray(value) && value.every((one) => typeof one === 'string'),
  'a list of texts',
);
export const anObject = of(isRecord, 'an object');
export const textByLocale = of((value) => {
  if (typeof value !== 'object' || value === null) return isSaid(value);
  const texts = Object.entries(value);
  return texts.length > 0 && texts.every(([locale, text]) => isLocale(locale) && isSaid(text));
}, 'a text, or texts by locale');
export const aDuration = of((value) => !!durationMs(value as never), "a duration such as '30s'");

export function oneOf(...all: readonly unknown[]): FieldForm {
  return of((value) => all.includes(value), `one of ${all.map((one) => JSON.stringify(one)).join(', ')}`);
}

/** An object whose values are all of one form. */
export function eachOf(form: FieldForm, what: string): FieldForm {
  return of(
    (value) => anObject(value) === undefined && Object.values(value as object).every((one) => form(one) === undefined),
    what,
  );
}
