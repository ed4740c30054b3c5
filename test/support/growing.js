/** A process whose store's file may not grow for long: `growing.js FILE`. Tells how it ends, and what is there still. */
import { fileStore } from '@taxeon/file-store';

const [path] = process.argv.slice(2);
const store = fileStore({ path });
await store.acquire([{ id: 'irc/lamp/user', uses: 1, windowMs: 60_000 }], ['wren']);
let problem = 'none';
try {
  await store.compareAndSet('long', 0, 'x'.repeat(5_000_000));
} catch (error) {
  problem = error.problem;
}
let live = 0;
for await (const page of store.live()) live += page.length;
const isWritten = await store.compareAndSet('short', 0, 'x');
store.close();
console.log(JSON.stringify({ problem, live, isWritten }));
