import { describe, expect, test } from 'vitest';
import { isMissing, start } from '../../../test/support/programs.js';
import { folderOf } from './support.js';

/** Prints what could stand where a line ends, one a line, with the script of this shell. */
const asks: Readonly<Record<string, (words: readonly string[]) => string>> = {
  bash: (words) => `source ./script
COMP_WORDS=(${words.map((word) => `'${word}'`).join(' ')}); COMP_CWORD=${words.length - 1}
_taxeon; printf '%s\\n' "\${COMPREPLY[@]}"`,
  // What the shell has for it works only where somebody types.
  zsh: (words) => `compdef() { : }; source ./script
words=(${words.map((word) => `'${word}'`).join(' ')}); CURRENT=${words.length}
found() { print -l -- \${(M)@:#$words[CURRENT]*} }
compadd() { shift; found "$@" }; _files() { found * }
_describe() { found \${\${(P)2}%%:*} }
_taxeon`,
  fish: (words) => `source ./script; complete -C '${words.join(' ')}' | string replace -r '\\t.*' ''`,
};

describe.each(['bash', 'zsh', 'fish'])('%s', (shell) => {
  const isAbsent = isMissing(shell);
  test.skipIf(isAbsent).each([
    [['taxeon', 'ex'], ['explain']],
    [
      ['taxeon', 're'],
      ['reference', 'register'],
    ],
    [['taxeon', 'explain', '--su'], ['--surface']],
    [
      ['taxeon', 'explain', '--surface', ''],
      ['console', 'slash', 'text'],
    ],
    [['taxeon', 'access', '--format', 'h'], ['html']],
    [['taxeon', 'try', '--config', 'sh'], ['shed.config.mjs']],
    [['taxeon', 'try', 'sh'], ['shed.config.mjs']],
    [['taxeon', 'explain', '--as', ''], []],
    [['taxeon', 'completion', 'z'], ['zsh']],
  ])('completes %j', async (words, expected) => {
    const { path, write, taxeon } = folderOf({ 'shed.config.mjs': '' });
    write('script', (await taxeon('completion', shell)).out);
    const { out, err } = await start(shell, ['-c', (asks[shell] as (typeof asks)[string])(words)], { cwd: path })
      .finished;
    expect(err).toBe('');
    expect(
      out
        .split('\n')
        .filter((line) => line !== '')
        .sort(),
    ).toEqual(expected);
  });
});

test('another shell is refused', async () => {
  const { status, err } = await folderOf({}).taxeon('completion', 'moon');
  expect({ status, err }).toEqual({
    status: 2,
    err: expect.stringContaining('<shell> is bash, zsh or fish, and not "moon".'),
  });
});
