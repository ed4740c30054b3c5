/** Another process on one store: changes a guild's prefixes, takes a cooldown and ends, or runs a command for ever. */
import { readFileSync } from 'node:fs';
import { standIn } from '@taxeon/testing';
import { command, createCommandLayer, guildSettings } from 'taxeon';
import { openShared } from './shared-store.js';

const [path, what, world] = process.argv.slice(2);
const store = openShared(path);
if (what === 'settings') {
  await guildSettings({ store }).change('stand-in/oddmere', (settings) => ({ ...settings, prefixes: ['%'] }));
  store.close();
} else if (what === 'running') {
  const stocktake = command({
    name: 'stocktake',
    description: 'Count',
    running: { guild: 1 },
    run: () => new Promise(() => process.stdout.write('running\n')),
  });
  const platform = standIn(JSON.parse(readFileSync(world, 'utf8')));
  await platform.serve(createCommandLayer({ commands: [stocktake], prefixes: ['!'], store, lease: '1s' }));
  void platform.send(platform.typed({ person: 'wren', place: 'oddmere', text: '!stocktake' }));
} else {
  await store.acquire([{ id: 'kept', uses: 1, windowMs: 600_000 }], ['wren']);
  process.stdout.write('taken\n');
  // Dies without a word, as by `kill -9`.
  process.kill(process.pid, 'SIGKILL');
}
