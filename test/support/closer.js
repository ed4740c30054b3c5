/** Opens a store, begins this and that, closes it after so many milliseconds, and ends by itself: `closer.js STORE MS`. */
import { openShared } from './shared-store.js';

const [name, afterMs] = process.argv.slice(2);
const store = openShared(name);
store.subscribe('news', () => undefined);
const asked = [store.acquire([{ id: 'once', uses: 1, windowMs: 1000 }], ['a']), store.read('v'), store.entries('v')];
await new Promise((resolve) => setTimeout(resolve, Number(afterMs)));
await store.close();
await Promise.allSettled(asked);
