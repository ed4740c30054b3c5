/** The command lines on pages name commands and options that there are. */
import { expect, test } from 'vitest';
import { blocksOf, pages } from '../../../test/docs/blocks.js';
import { folderOf } from './support.js';

/** `npx taxeon try --watch   # again` is the command `try` with the option `--watch`. */
const lines = pages()
  .flatMap(blocksOf)
  .filter(({ language }) => language === 'sh')
  .flatMap(({ path, code }) => code.split('\n').map((text) => ({ path, text: text.replace(/\s#.*| > .*/, '').trim() })))
  .filter(({ text }) => !text.startsWith('npm '))
  .flatMap(({ path, text }) => {
    const [, name, rest = ''] = /(?:^|\s)(?:npx )?taxeon ([a-z]+)(.*)$/.exec(text) ?? [];
    return name === undefined ? [] : [{ path, name, rest, text }];
  });
const names = [...new Set(lines.map(({ name }) => name))].sort();

test('there are such lines', () => expect(names).toEqual(expect.arrayContaining(['console', 'register', 'try'])));

test.each(names)('those of taxeon %s', async (name) => {
  const { out, status } = await folderOf({}).taxeon(name, '--help');
  expect(status).toBe(0);
  expect(out).toMatch(new RegExp(`^taxeon ${name}\\b`));
  for (const { path, rest, text } of lines.filter((line) => line.name === name)) {
    const given = rest.replace(/'[^']*'|"[^"]*"/g, '').match(/(?<=\s)--[a-z-]+/g) ?? [];
    for (const option of given)
      expect({ path, text, options: out }).toMatchObject({ options: expect.stringContaining(`${option} `) });
    const [, format] = /--format (\w+)/.exec(rest) ?? [];
    if (format !== undefined)
      expect({ path, text, options: out }).toMatchObject({
        options: expect.stringMatching(new RegExp(`Takes [^.]*\\b${format}\\b`)),
      });
  }
});
