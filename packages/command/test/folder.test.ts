import { describe, expect, test } from 'vitest';
import { oddmereData } from '../../../test/support/oddmere.js';
import { folderOf } from './support.js';

const lamp = (name: string) =>
  `import { command } from 'taxeon';\nexport default command({ name: '${name}', description: 'Light the ${name}', run: () => 'The ${name} is lit.' });\n`;

const config = `import { defineConfig } from '@taxeon/testing';
interface Given { readonly clock: unknown }
export default defineConfig({
  modules: './commands/',
  world: ${JSON.stringify(oddmereData().world)} as never,
  services: ({ clock }: Given) => ({ words: 'from the services' }),
  layer: (given: never) => ({ ...(given as object), prefixes: ['?'] }),
});
`;

describe('a configuration that names a folder', () => {
  test('is opened with the folder’s modules, in TypeScript too', async () => {
    const { taxeon } = folderOf({
      'taxeon.config.ts': config,
      'commands/lamp.ts': lamp('lamp'),
      'commands/lending/borrow.js': `import { command } from 'taxeon';
export default ({ words }) => command({ name: 'borrow', description: words, run: () => words });
export const opened = () => { throw new Error('only where it is played'); };`,
    });
    const { out, err } = await taxeon('explain', '?lamp', '--as', 'ines');
    expect({ err, runs: out.includes('runs: lamp would be run for Ines.') }).toEqual({ err: '', runs: true });
    expect((await taxeon('check')).out).toContain('The bot opens');
    expect((await taxeon('explain', '?bor', '--as', 'ines', '--complete')).out).toContain('from the services');
  });

  test('is checked with every problem of every file, as text and JSON', async () => {
    const { taxeon } = folderOf({
      'taxeon.config.ts': config,
      'commands/a.js': 'export default (',
      'commands/b.ts': '\n\nthrow new Error("no shelf");',
      'commands/c.js': lamp('lamp'),
      'commands/d.js': lamp('lamp'),
    });
    const { status, out } = await taxeon('check');
    expect(status).toBe(1);
    expect(out.split('\n').slice(1, 4)).toEqual([
      expect.stringMatching(/^ {2}a\.js:1: does not read: /),
      '  b.ts:3: fails while it is read: no shelf',
      '  d.js: has the command "lamp", which c.js has too; rename one of them',
    ]);
    expect(out).toContain('The bot does not open: 3 problems.');
    const json = JSON.parse((await taxeon('check', '--json')).out);
    expect(json.problems[1]).toEqual({ file: 'b.ts', line: 3, problem: 'fails while it is read: no shelf' });
  });

  const wrong: [string, string, RegExp][] = [
    ['names no folder', config.replace('./commands/', './nowhere/'), /There is no folder .*nowhere/],
    [
      'has both ways',
      config.replace('services:', 'open: () => ({}), services:'),
      /needs either `open` or `modules`; give it one made with/,
    ],
    ['has no world', config.replace(/world: .*/, ''), /does not open its bot: The simulated world is wrong/],
  ];
  test.each(wrong)('that %s is told', async (_, text, expected) => {
    const { status, err } = await folderOf({ 'taxeon.config.ts': text, 'commands/lamp.js': lamp('lamp') }).taxeon(
      'check',
    );
    expect({ status, err }).toEqual({ status: 2, err: expect.stringMatching(expected) });
  });
});
