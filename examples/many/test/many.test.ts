import { fileURLToPath } from 'node:url';
import { describe, expect, test } from 'vitest';
import { isMissing, start } from '../../../test/support/programs.js';

const program = fileURLToPath(new URL('../dist/many.js', import.meta.url));

describe.skipIf(isMissing('redis-server'))('four processes of Mallet on one Redis server', () => {
  test('grant what is allowed, run each line once, and lose nothing that was counted, though one is killed', async () => {
    const { out, err, status } = await start(process.execPath, [program], {
      env: { ...process.env, NO_COLOR: '1', FORCE_COLOR: undefined },
    }).finished;
    expect({ err, status }).toEqual({ err: '', status: 0 });
    expect(out).toMatch(/process 3 {2}Wren {5}!borrow spade\n\s+Mallet {3}Not yet\./);
    expect(out).toContain('It was said once: 1 of the two has left it to the other.');
    expect(out).toMatch(/people who were lent more than two: 0; uses that were counted and are lost: 0/);
    const [, lent, refused] = /(\d+) lent, (\d+) refused/.exec(out)?.map(Number) ?? [];
    const [, ended] = /(\d+) had begun and ended with it/.exec(out)?.map(Number) ?? [];
    expect((lent ?? 0) + (refused ?? 0) + (ended ?? 0)).toBe(600);
    expect(out).toMatch(/process 2 {2}Wren {5}\?borrow spade\n\s+Mallet {3}Not yet\./);
  });
});
