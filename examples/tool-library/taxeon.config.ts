/** How the `taxeon` command opens this bot: on a simulated platform with the demo's people. */
import { readFileSync } from 'node:fs';
import { createStandIn, standInRegistrar } from 'taxeon/stand-in';
import { defineConfig } from 'taxeon/testing';
import { parse } from 'yaml';
import { type DemoData, mallet } from './src/index.js';
import { registryFile } from './src/registry-file.js';

function demoData(): DemoData {
  return parse(readFileSync(new URL('./data/saltmarsh.yaml', import.meta.url), 'utf8'));
}

export default defineConfig({
  registration: {
    credential: 'SALTMARSH_TOKEN',
    open({ credential, clock }) {
      const { world, tokens = {} } = demoData();
      const state = registryFile(process.env['SALTMARSH_REGISTRY'] ?? 'saltmarsh-registry.json');
      return standInRegistrar({ guilds: world.guilds.map(({ id }) => id), tokens, token: credential, clock, state });
    },
  },
  open({ clock, log, store }) {
    const data = demoData();
    const layer = mallet(data, { clock, log, ...(store === undefined ? {} : { store }) });
    return { layer, platform: createStandIn(data.world, { clock }) };
  },
});
