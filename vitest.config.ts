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
          include: [
            'packages/*/test/**/*.test.ts',
            'test/**/*.test.ts',
            'examples/*/test/**/*.test.ts',
            'bench/test/**/*.test.ts',
          ],
          exclude: [
            'packages/*/test/{live,browser}/**',
            'test/{live,long}/**',
            'packages/command/**',
            'examples/{playground,many,figures,slash-endpoint}/**',
          ],
          // Properties take their time where the machine is busy with other work.
          testTimeout: 60_000,
          typecheck: { enabled: true, include: ['packages/*/test/**/*.test-d.ts'], tsconfig: 'tsconfig.tests.json' },
        },
      },
      {
        extends: true,
        test: {
          name: 'live',
          include: [
            'packages/*/test/{live,browser}/**/*.test.ts',
            'test/live/**/*.test.ts',
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
            'test/long/**/*.test.ts',
            // Sweeps, of which the library's tests go through a part.
            'packages/taxeon/test/{algebra,bounds,growth}.test.ts',
          ],
          env: { SWEEP: 'all' },
        },
      },
    ],
  },
});
