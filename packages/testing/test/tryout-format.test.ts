import { readFileSync, writeFileSync } from 'node:fs';
import { checkTryout } from '@taxeon/testing/tryouts';
import { toJsonSchema } from '@valibot/to-json-schema';
import { Ajv } from 'ajv';
import { expect, test } from 'vitest';
import { parse } from 'yaml';
import { tryoutSchema } from '../src/tryout-format.js';

const file = new URL('../tryout.schema.json', import.meta.url);
const afternoon = new URL('../../../examples/tool-library/data/afternoon.tryout.yaml', import.meta.url);

/** What a check of one's own asks for, a schema cannot say. */
const schema = () => ({
  ...toJsonSchema(tryoutSchema, { errorMode: 'ignore', typeMode: 'input' }),
  title: 'A tryout: a scripted conversation with the replies it expects',
});

test('tryout.schema.json is the format, for editors that complete (`SCHEMA=write` writes it)', () => {
  const made = JSON.parse(JSON.stringify(schema()));
  if (process.env['SCHEMA'] === 'write') writeFileSync(file, JSON.stringify(made));
  expect(JSON.parse(readFileSync(file, 'utf8'))).toEqual(made);
});

test('and holds for what is a tryout, and for nothing else', () => {
  const isTryout = new Ajv({ strict: false }).compile(schema() as object);
  const tryout = parse(readFileSync(afternoon, 'utf8'));
  expect([isTryout(tryout), isTryout.errors]).toEqual([true, null]);
  expect(checkTryout(tryout).lines).toHaveLength(tryout.lines.length);
  expect(isTryout({ ...tryout, lines: [{ wiat: '2m' }] })).toBe(false);
  expect(isTryout({ ...tryout, beginning: 'now' })).toBe(false);
});
