/**
 * A bot under the load of a large platform, for `--minutes N`: 10,000 lines of chat a second, 5 % of them calls, from a
 * million people in 10,000 guilds with settings of their own. Fails where a call is lost or the heap grows.
 */
import { PerformanceObserver } from 'node:perf_hooks';
import { parseArgs } from 'node:util';
import {
  arg,
  type Clock,
  type Command,
  command,
  createCommandLayer,
  type Guild,
  type GuildSettings,
  guildSettings,
  type Member,
  memoryStore,
} from 'taxeon';
import { emptyDirectory, type Input, type Platform } from 'taxeon/platform';
import { quiet } from './bots/oddmere.js';
import { heap } from './measure/heap.js';
import { orEnd } from './or-end.js';

const { values: asked } = orEnd(() =>
  parseArgs({
    options: {
      minutes: { type: 'string', default: '10' },
      /** How many times as fast the layer's clock runs: what it keeps for minutes comes and goes sooner. */
      speed: { type: 'string', default: '1' },
      json: { type: 'boolean', default: false },
    },
  }),
);
const minutes = Number(asked.minutes);
const speed = Number(asked.speed);
if (!(minutes > 0 && speed >= 1)) {
  console.error('Say how long, and how fast time is for the layer: --minutes 10 --speed 4');
  process.exit(2);
}

const LINES_A_SECOND = 10_000;
const CALL_EVERY = 20;
const GUILDS = 10_000;
const PEOPLE = 1_000_000;
const PREFIXES = 100;
const COMMANDS = 1000;
const ALIASES = 5;
/** Besides what the ids of events take, and the counts of whose they are. They are kept for at most twenty minutes. */
const MOST_GROWTH_MB = 24;
const BYTES_AN_EVENT = 350;
const KEPT_MS = 20 * 60_000;

const permissions: ReadonlySet<string> = new Set(['borrow']);

function prefixOf(guild: number): string {
  return `${String.fromCharCode(97 + (guild % 25))}${Math.floor((guild % PREFIXES) / 25)}!`;
}

function commandsOf(): readonly Command[] {
  return Array.from({ length: COMMANDS }, (_, index) =>
    command({
      name: `lend-${index}`,
      aliases: Array.from({ length: ALIASES }, (_one, alias) => `l${index}-${alias}`),
      description: 'Lend a tool',
      args: { days: arg.integer({ min: 1, max: 30 }), note: arg.tail({ optional: true }) },
      requires: ({ caller }) => [caller.can('borrow')],
      cooldowns: { user: '3 in 10s', guild: '100 in 1m' },
      running: { guild: 50 },
      // Every other handler has something to wait for.
      run:
        index % 2 === 0
          ? ({ args }) => `Lent for ${args.days} days.`
          : async ({ args }) => {
              await new Promise((done) => setImmediate(done));
              return `Lent for ${args.days} days.`;
            },
    }),
  );
}

const guilds: readonly Guild[] = Array.from({ length: GUILDS }, (_, index) => ({
  id: `g${index}`,
  name: `Guild ${index}`,
}));
const settings: Readonly<Record<string, GuildSettings>> = Object.fromEntries(
  guilds.map(({ id }, index) => [
    `load/${id}`,
    { prefixes: [prefixOf(index)], rules: [{ command: 'lend-7', verdict: 'deny', member: `p${index}` }] },
  ]),
);
const places = guilds.map((guild) => ({
  kind: 'guild' as const,
  guild,
  channel: { id: `${guild.id}-counter`, name: 'counter' },
}));

let delivered = 0;
const platform: Platform = {
  name: 'load',
  capabilities: { privateReplies: 'never', eventIds: true },
  directory: emptyDirectory,
  async deliver() {
    delivered += 1;
  },
  serve: () => Promise.reject(new Error('not served here')),
};

const clock: Clock = {
  now: () => Math.floor(performance.timeOrigin + performance.now() * speed),
  elapsed: () => performance.now() * speed,
};
const store = memoryStore({ clock });
const layer = createCommandLayer({
  commands: commandsOf(),
  prefixes: ['!'],
  settings: guildSettings({ store, guilds: settings as never }),
  store,
  clock,
  log: quiet,
});

/** The same everywhere and every time, and far from anything regular. */
let state = 17;
function random(below: number): number {
  state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
  return Math.floor((state / 2 ** 32) * below);
}

let lines = 0;
function nextInput(): Input {
  lines += 1;
  const guild = random(GUILDS);
  const id = random(PEOPLE);
  const caller: Member = {
    kind: 'member',
    id: `p${id}`,
    name: 'Wren',
    roles: [],
    permissions,
    rank: 10,
    ownsGuild: false,
  };
  const isCall = lines % CALL_EVERY === 0;
  const index = random(COMMANDS);
  const name = lines % 3 === 0 ? `lend-${index}` : `l${index}-${lines % ALIASES}`;
  const text = isCall ? `${prefixOf(guild)}${name} ${1 + (lines % 30)} for the fence` : 'is the drill back yet?';
  return { surface: 'text', id: `e${lines}`, caller, place: places[guild] as never, text, at: clock.now() };
}

/** By how long a call took, in tenths of a millisecond; the last holds all that took longer. */
const latencies = new Uint32Array(10_001);
const ended = new Map<string, number>();
let calls = 0;
let endedCalls = 0;

function hear(input: Input, dueAt: number): void {
  const outcome = layer.handle(input, platform);
  if (lines % CALL_EVERY !== 0) return;
  calls += 1;
  void outcome.then((end) => {
    endedCalls += 1;
    const what = 'code' in end ? end.code : end.status;
    ended.set(what, (ended.get(what) ?? 0) + 1);
    const tenths = Math.min(latencies.length - 1, Math.max(0, Math.round((performance.now() - dueAt) * 10)));
    latencies[tenths] = (latencies[tenths] as number) + 1;
  });
}

function percentileMs(part: number): number {
  let left = latencies.reduce((sum, count) => sum + count, 0) * part;
  const tenths = latencies.findIndex((count) => {
    left -= count;
    return left <= 0;
  });
  return tenths / 10;
}

const pauses: { readonly at: number; readonly ms: number }[] = [];
new PerformanceObserver((list) => {
  for (const { startTime, duration } of list.getEntries()) pauses.push({ at: startTime, ms: duration });
}).observe({ entryTypes: ['gc'] });

/** What making the lines takes by itself, in seconds of a core for each of them. */
function costOfMaking(): number {
  for (let index = 0; index < 200_000; index++) nextInput();
  const before = process.cpuUsage();
  for (let index = 0; index < 500_000; index++) nextInput();
  const { user, system } = process.cpuUsage(before);
  lines = 0;
  return (user + system) / 1e6 / 500_000;
}

/** What is measured begins once maps are filled and code is compiled. */
interface Begun {
  readonly at: number;
  readonly lines: number;
  readonly calls: number;
  readonly heapMb: number;
  readonly cpu: NodeJS.CpuUsage;
}

function measureFromNow(): Begun {
  const heapMb = heap() / 1e6;
  latencies.fill(0);
  ended.clear();
  return { at: performance.now(), lines, calls, heapMb, cpu: process.cpuUsage() };
}

const PER_MS = LINES_A_SECOND / 1000;
const SAMPLES = 20;

/** Plays the load for so long; the heap as it was meanwhile, in MB. */
function play(forMs: number): Promise<number[]> {
  const samples: number[] = [];
  const from = { at: performance.now(), lines };
  return new Promise((done) => {
    function tick(): void {
      const now = performance.now() - from.at;
      const due = from.lines + Math.min(forMs, now) * PER_MS;
      while (lines < due) hear(nextInput(), from.at + (lines - from.lines) / PER_MS);
      if (now >= (samples.length + 1) * (forMs / SAMPLES))
        samples.push(Math.round(process.memoryUsage().heapUsed / 1e6));
      if (now >= forMs) done(samples);
      else setTimeout(tick, 1);
    }
    tick();
  });
}

/** How many events are remembered so long after the beginning. */
function keptAt(ms: number): number {
  return (Math.min(ms, KEPT_MS / speed) * PER_MS) / CALL_EVERY;
}

const makingS = costOfMaking();
const totalMs = minutes * 60_000;
await play(totalMs / 4);
const begun = measureFromNow();
const samples = await play((totalMs * 3) / 4);
const { user, system } = process.cpuUsage(begun.cpu);
const playedAt = performance.now();
const seconds = (playedAt - begun.at) / 1000;
const ran = lines - begun.lines;
const coreS = (user + system) / 1e6;
await layer.close();
const heapMb = heap() / 1e6;
const measured = calls - begun.calls;
const grownMb = heapMb - begun.heapMb - ((keptAt(totalMs) - keptAt(totalMs / 4)) * BYTES_AN_EVENT) / 1e6;
const lost = calls - endedCalls;
const longestPauseMs = Math.max(0, ...pauses.filter(({ at }) => at >= begun.at && at < playedAt).map(({ ms }) => ms));

const told = {
  lines: ran,
  calls: measured,
  lost,
  delivered,
  outcomes: Object.fromEntries(ended),
  p50Ms: percentileMs(0.5),
  p99Ms: percentileMs(0.99),
  p999Ms: percentileMs(0.999),
  /** Of a core; without what making the lines takes. */
  cpu: Number(((coreS - makingS * ran) / seconds).toFixed(3)),
  cpuWithMakingLines: Number((coreS / seconds).toFixed(3)),
  longestGcPauseMs: Number(longestPauseMs.toFixed(1)),
  heapMb: { before: Math.round(begun.heapMb), after: Math.round(heapMb), samples },
  grownMb: Number(grownMb.toFixed(1)),
};
console.log(JSON.stringify(told, undefined, asked.json ? 0 : 2));
if (lost > 0) console.error(`${lost} calls were lost.`);
if (grownMb > MOST_GROWTH_MB)
  console.error(`The heap has grown by ${told.grownMb} MB beyond what the events of the last minutes take.`);
process.exit(lost > 0 || grownMb > MOST_GROWTH_MB ? 1 : 0);
