/** Another process on one store's file: changes a guild's prefixes, or takes a cooldown, and ends. */
import { guildSettings } from 'taxeon';
import { openShared } from './shared-store.js';

const [path, what] = process.argv.slice(2);
const store = openShared(path);
if (what === 'settings') {
  await guildSettings({ store }).change('stand-in/oddmere', (settings) => ({ ...settings, prefixes: ['%'] }));
  store.close();
} else {
  await store.acquire([{ id: 'kept', uses: 1, windowMs: 600_000 }], ['wren']);
  process.stdout.write('taken\n');
  // Dies without a word, as by `kill -9`.
  process.kill(process.pid, 'SIGKILL');
}
