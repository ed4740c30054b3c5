/** Another process on one store's file: asks Ines for what a line lacks, says so, and lives on until it is killed. */
import { readFileSync } from 'node:fs';
import { standIn } from '@taxeon/testing';
import { arg, command, createCommandLayer } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { openShared } from './shared-store.js';

const [path, world, line] = process.argv.slice(2);
const fine = command({
  name: 'fine',
  description: 'Charge a member',
  whenMissing: 'ask',
  args: { who: arg.member(), pence: arg.integer() },
  run: async (call) => {
    await call.confirm('Sure?');
    return 'Done.';
  },
});
const platform = standIn(JSON.parse(readFileSync(world, 'utf8')));
const store = openShared(path);
const asking = askInChat({ within: '5s' });
const layer = createCommandLayer({ commands: [fine], prefixes: ['!'], store, asking });
await platform.serve(layer);
const done = platform.send(platform.typed({ person: 'ines', place: 'oddmere/counter', text: line }));
const answered = await Promise.race([done, new Promise((resolve) => setTimeout(resolve, 500))]);
process.stdout.write(`${answered?.outcome.status ?? platform.posts.at(-1)?.notice.body}\n`);
setInterval(() => undefined, 1000);
