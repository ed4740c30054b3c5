import { availableParallelism } from 'node:os';

import { defineConfig } from 'vitest/config';
import { sources } from './scripts/sources.js';

/**
 * The library and the demo bot are taken from their sources. Without `module`: what packages publish for bundlers, Node
 * cannot read.
 */
const conditions = ['source', 'node', 'development|production'];

export default defineConfig({
  resolve: { conditions, alias: sources },
  ssr: { resolve: { conditions } },
  test: {
    // Many of the tests wait for a server or a browser, so that three share even a small machine well.
    maxWorkers: Math.max(3, availableParallelism() - 1),
    // No file counts on modules of its own: the library is loaded once a worker, and not once a file.
    isolate: false,
    projects: [
      {
        extends: true,
        test: {
          name: 'library',
          include: ['packages/taxeon/test/**/*.test.ts', 'examples/*/test/**/*.test.ts', 'bench/test/**/*.test.ts'],
          exclude: [
            'packages/taxeon/test/{live,browser,long}/**',
            'examples/{playground,many,figures,slash-endpoint}/**',
          ],
          // Properties take their time where the machine is busy with other work.
          testTimeout: 60_000,
          typecheck: {
            enabled: true,
            include: ['packages/taxeon/test/**/*.test-d.ts'],
            tsconfig: 'packages/taxeon/test/tsconfig.json',
          },
        },
      },
      {
        extends: true,
        test: {
          name: 'live',
          include: [
            'packages/taxeon/test/{live,browser}/**/*.test.ts',
            'packages/command/test/**/*.test.ts',
            'examples/{playground,many,figures,slash-endpoint}/test/**/*.test.ts',
            'site/test/**/*.test.ts',
          ],
          testTimeout: 60_000,
          hookTimeout: 60_000,
        },
      },
      {
        extends: true,
        test: {
          name: 'long',
          include: [
            'packages/taxeon/test/long/**/*.test.ts',
            // Sweeps, of which the library's tests go through a part.
            'packages/taxeon/test/{algebra,bounds}.test.ts',
          ],
          env: { SWEEP: 'all' },
        },
      },
    ],
  },
});
