import { cpSync, mkdtempSync, readFileSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { describe, expect, onTestFinished, test } from 'vitest';
import { start } from '../../../test/support/programs.js';

const here = (path: string) => fileURLToPath(new URL(path, import.meta.url));

/** Plays the demo's afternoon on its bot with one thing in it changed. */
async function playedWith(file: string, from: string, to: string) {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-planted-'));
  onTestFinished(() => rmSync(folder, { recursive: true, force: true }));
  cpSync(here('../dist/demo'), folder, { recursive: true });
  writeFileSync(join(folder, 'package.json'), '{ "type": "module" }');
  symlinkSync(here('../../../node_modules'), join(folder, 'node_modules'));
  const path = join(folder, 'src', file);
  const text = readFileSync(path, 'utf8');
  if (!text.includes(from)) throw new Error(`${file} has no ${from}`);
  writeFileSync(
    path,
    text.replace(from, () => to),
  );
  const args = [here('../bin/taxeon.js'), 'try', 'data', '--config', 'afternoon.config.js'];
  const env = { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined };
  return start(process.execPath, args, { cwd: folder, env }).finished;
}

describe('what goes wrong in a bot is told by the tryout that meets it, with both sides:', () => {
  const borrow = 'commands/lending/borrow.js';
  const rows: [string, string, string, string, RegExp][] = [
    [
      'an alias is lost',
      borrow,
      "aliases: ['take']",
      'aliases: []',
      /!take hedge trimmer 2 days for the orchard\n.*Mallet says nothing: command\.unknown[\s\S]*?status +completed +refused\n/,
    ],
    [
      'a cooldown is too long',
      borrow,
      "'2 in 10m'",
      "'20 in 10m'",
      /!take ladder\n.*The ladder is yours[\s\S]*?code +cooldown\.active +none\n/,
    ],
    [
      'the bot’s own permission is not asked for',
      'commands/for-stewards/induct.js',
      "bot.can('give-badges'),",
      '',
      /\?induct [\s\S]*?code +permission\.bot +none\n/,
    ],
    [
      'a rank is not asked for',
      'commands/for-stewards/fine.js',
      "caller.outranks('who'),",
      '',
      /!fine odalys 50\n[\s\S]*?code +permission\.rank +none\n/,
    ],
    [
      'a name is cut at its first word',
      'commands/lending/_tools.js',
      'name: (tool) => tool.name',
      "name: (tool) => tool.name.split(' ', 1)[0]",
      /!take hedge trimmer 2 days for the orchard\n[\s\S]*?Tuesday 12 May/,
    ],
    [
      'what is slow is not held',
      'commands/for-stewards/stocktake.js',
      '(await library.scan(guild.id, tool))',
      "tool.name !== 'clamps'",
      /\/stocktake\n[\s\S]*?held +true +false\n/,
    ],
    [
      'a command is registered elsewhere',
      'commands/for-stewards/stocktake.js',
      "['staging', 'stand-in/oddmere', 'stand-in/pellbrook']",
      "['staging']",
      /\/stocktake\n.*“stocktake” is not available here\.[\s\S]*?status +completed +refused\n/,
    ],
    [
      'nothing is asked for',
      'commands/lending/return.js',
      "whenMissing: 'ask',",
      '',
      /!return\n.*“tool” is missing[\s\S]*?status +waiting +invalid\n/,
    ],
  ];
  test.each(rows)('%s', async (_, file, from, to, expected) => {
    const { status, out, err } = await playedWith(file, from, to);
    expect({ status, err }).toEqual({ status: 1, err: '' });
    expect(out).toMatch(expected);
  });
});
