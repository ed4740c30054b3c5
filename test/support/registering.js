/** One process of a bot that registers at its start: `registering.js STORE REGISTRY`. Prints what came of it. */
import { existsSync, readFileSync, renameSync, writeFileSync } from 'node:fs';
import { emptyRegistrar, injectFaults, standInRegistrar } from '@taxeon/testing';
import { command, createCommandLayer, memoryStore } from 'taxeon';
import { manifestOf, register } from 'taxeon/registration';
import { openShared } from './shared-store.js';

const [path, registry, alone] = process.argv.slice(2);
const state = {
  read: () => (existsSync(registry) ? JSON.parse(readFileSync(registry, 'utf8')) : emptyRegistrar),
  write(next) {
    writeFileSync(`${registry}.${process.pid}`, JSON.stringify(next));
    renameSync(`${registry}.${process.pid}`, registry);
  },
};
let calls = 0;
const registrar = standInRegistrar({
  guilds: ['oddmere'],
  tokens: { demo: ['look', 'register'] },
  token: 'demo',
  state,
  rate: '3 in 300ms',
});
injectFaults(registrar, () => {
  calls += 1;
  return { kind: 'delay', ms: 5 };
});
const names = ['borrow', 'return', 'reserve', 'shelf', 'induct', 'fine', 'announce', 'stocktake'];
const commands = names.map((name) => command({ name, description: `Does ${name}`, run: () => name }));
// Whoever is alone keeps no claim, which a process that was killed would hold for a while.
const store = alone === undefined ? openShared(path) : memoryStore();
const { outcome, created } = await register(manifestOf(createCommandLayer({ commands })), registrar, {
  store,
  skipUnchanged: true,
});
await store.close();
console.log(JSON.stringify({ outcome, created, calls }));
