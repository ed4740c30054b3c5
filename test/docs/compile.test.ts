import { expect, test } from 'vitest';
import { blocksOf, examplesIn, pages } from './blocks.js';
import { compileProblems } from './compile.js';

test('every block of code in the pages and in doc comments compiles', async () => {
  const blocks = [
    ...pages()
      .flatMap(blocksOf)
      .filter(({ language }) => language === 'ts'),
    ...examplesIn('packages/taxeon/src'),
  ];
  expect(blocks.length).toBeGreaterThan(100);
  expect(await compileProblems(blocks)).toEqual([]);
});
