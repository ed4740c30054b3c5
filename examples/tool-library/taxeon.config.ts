/** How the `taxeon` command opens this bot: on a simulated platform with the demo's people. */
import { readFileSync } from 'node:fs';
import { createStandIn } from 'taxeon/stand-in';
import { defineConfig } from 'taxeon/testing';
import { parse } from 'yaml';
import { type DemoData, mallet } from './src/index.js';

export default defineConfig({
  open({ clock, log, store }) {
    const file = new URL('./data/saltmarsh.yaml', import.meta.url);
    const data: DemoData = parse(readFileSync(file, 'utf8'));
    const layer = mallet(data, { clock, log, ...(store === undefined ? {} : { store }) });
    return { layer, platform: createStandIn(data.world, { clock }) };
  },
});
