/** How the `taxeon` command opens this bot: on a simulated platform with the demo's people. */
import { homedir } from 'node:os';
import { join } from 'node:path';
import { defineConfig, standIn, standInRegistrar } from '@taxeon/testing';
import { demoData } from './src/demo-data.js';
import { mallet } from './src/index.js';
import { registryFile } from './src/registry-file.js';

/** Among the person's own files, so that it is there the next time, wherever the command is run. */
const registry =
  process.env['ODDMERE_REGISTRY'] ?? join(homedir(), '.local', 'state', 'oddmere-tool-library', 'registered.json');

export default defineConfig({
  registration: {
    credential: 'ODDMERE_TOKEN',
    keptIn: registry,
    open({ credential, clock }) {
      const { world, tokens = {} } = demoData();
      const state = registryFile(registry);
      return standInRegistrar({ guilds: world.guilds.map(({ id }) => id), tokens, token: credential, clock, state });
    },
  },
  open(given) {
    const data = demoData();
    return { layer: mallet(data, given), platform: standIn(data.world, given) };
  },
});
