/** How the `taxeon` command opens this bot: on a simulated platform with the demo's people. */
import { readFileSync } from 'node:fs';
import { homedir } from 'node:os';
import { join } from 'node:path';
import { createStandIn, standInRegistrar } from 'taxeon/stand-in';
import { defineConfig } from 'taxeon/testing';
import { parse } from 'yaml';
import { type DemoData, mallet } from './src/index.js';
import { registryFile } from './src/registry-file.js';

function demoData(): DemoData {
  return parse(readFileSync(new URL('./data/oddmere.yaml', import.meta.url), 'utf8'));
}

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
  open({ clock, log, store }) {
    const data = demoData();
    const layer = mallet(data, { clock, log, ...(store === undefined ? {} : { store }) });
    return { layer, platform: createStandIn(data.world, { clock }) };
  },
});
