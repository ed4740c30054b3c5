import { defineConfig } from 'vite';
import { sources } from '../scripts/sources.js';

/** The library is bundled from its sources, so that a benchmark can reach a part of it that is not public. */
const conditions = ['source', 'module', 'node'];

export default defineConfig({
  resolve: { conditions, alias: sources },
  ssr: { noExternal: ['taxeon'], resolve: { conditions } },
  build: {
    target: 'node20',
    ssr: true,
    minify: false,
    rolldownOptions: {
      input: {
        bench: 'src/bench.ts',
        row: 'src/row.ts',
        load: 'src/load.ts',
        'redis-worker': 'src/redis-worker.ts',
        'http-client': 'src/http-client.ts',
      },
    },
  },
});
