/** A bot whose commands are modules of a folder, driven by lines of JSON: in a process of its own, as modules are Node's. */
import { readFileSync } from 'node:fs';
import { createInterface } from 'node:readline';
import { runUntil, standIn, virtualClock } from '@taxeon/testing';
import { createCommandLayer, guildSettings, memoryStore, plainText, settingsCommands } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { loadModules, modulesCommand } from 'taxeon/modules';

const [folder, world] = process.argv.slice(2);
const transform = import.meta.resolve('oxc-transform');
const machine = virtualClock(Date.parse('2026-05-09T13:00:00Z'));
/** By how much the clock was set back, while timers went on as they were. */
let setBackMs = 0;
const clock = { ...machine, now: () => machine.now() - setBackMs };
const platform = standIn(JSON.parse(readFileSync(world, 'utf8')), { clock });
const logged = [];
const keep = (fields, message) => void logged.push({ message, module: fields.module, error: fields.error?.message });
const log = { error: keep, warn: keep, info: keep };
/** What modules say that they did. */
const seen = [];
let modules;
let layer;
let stopWatching;

const settled = () => new Promise((resolve) => setTimeout(resolve, 5));

async function say(text, person = 'ines') {
  const input = platform.typed({ person, place: 'oddmere/counter', text });
  const { posts, outcome } = await platform.send(input);
  return { says: posts.map(({ notice }) => plainText(notice)).join('\n'), status: outcome.status };
}

const doing = {
  async load(more) {
    const store = memoryStore({ clock });
    const settings = guildSettings({ store });
    const commands = () => [modulesCommand(modules), ...settingsCommands(settings, { requires: () => [] })];
    modules = await loadModules(folder, { services: { seen }, commands, transform, ...more });
    const options = { clock, log, store, settings, asking: askInChat(), owners: ['stand-in/ines'] };
    layer = createCommandLayer({ commands: modules.commands, prefixes: ['!'], ...options });
    await runUntil(clock, modules.open());
    await platform.serve(layer);
    await settled();
    return { list: modules.list };
  },
  say: ({ text, person }) => say(text, person),
  async reload({ id }) {
    const from = performance.now();
    const reloaded = await modules.reload(id);
    return { ...reloaded, tookMs: performance.now() - from };
  },
  watch: () => {
    stopWatching = modules.watch();
  },
  unwatch: () => stopWatching(),
  async advance({ ms }) {
    clock.advance(ms);
    await settled();
  },
  set_back({ ms }) {
    setBackMs = ms;
  },
  logged: () => ({ logged: logged.splice(0) }),
  seen: () => ({ seen: seen.splice(0), list: modules.list.map(({ id }) => id) }),
  close: () => layer.close(),
  /** So many calls a second, until it is told to stop. */
  load_begin({ perSecond }) {
    // One person alone may not send as many as a slow machine has time for.
    const everybody = ['ines', 'tobias', 'wren', 'odalys', 'pim'];
    const told = { calls: 0, lost: 0, replies: {} };
    const pending = new Set();
    const timer = setInterval(() => {
      for (let call = 0; call < perSecond / 100; call++) {
        told.calls += 1;
        const input = platform.typed({
          person: everybody[told.calls % everybody.length],
          place: 'oddmere/counter',
          text: '!both',
        });
        const ends = layer.handle(input, platform).then((outcome) => {
          pending.delete(ends);
          const reply = outcome.reply?.notice.body ?? outcome.status;
          told.replies[reply] = (told.replies[reply] ?? 0) + 1;
          if (outcome.status !== 'completed') told.lost += 1;
        });
        pending.add(ends);
      }
    }, 10);
    doing.load_end = async () => {
      clearInterval(timer);
      await Promise.all(pending);
      return told;
    };
  },
};

for await (const line of createInterface({ input: process.stdin })) {
  const { what, ...given } = JSON.parse(line);
  let answer;
  try {
    answer = (await doing[what](given)) ?? {};
  } catch (error) {
    answer = { error: error.message, name: error.name, problems: error.problems };
  }
  process.stdout.write(`${JSON.stringify(answer)}\n`);
}
