/** What OpenTelemetry is told of calls, by its own SDK. */
import { AsyncLocalStorage } from 'node:async_hooks';
import { createRequire } from 'node:module';
import type * as Api from '@opentelemetry/api';
import type * as Metrics from '@opentelemetry/sdk-metrics';
import type * as Traces from '@opentelemetry/sdk-trace-base';
import { arg, command, createCommandLayer, guildSettings, memoryStore } from 'taxeon';
import { askInChat } from 'taxeon/asking';
import { telemetry } from 'taxeon/telemetry';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { fine } from '../../../test/support/asking.js';
import { oddmere, silentLog } from '../../../test/support/oddmere.js';

// As Node has them: what they have for bundlers, it does not read.
const required = createRequire(import.meta.url);
const api = required('@opentelemetry/api') as typeof Api;
const { AggregationTemporality, InMemoryMetricExporter, MeterProvider, PeriodicExportingMetricReader } = required(
  '@opentelemetry/sdk-metrics',
) as typeof Metrics;
const { BasicTracerProvider, InMemorySpanExporter, SimpleSpanProcessor } = required(
  '@opentelemetry/sdk-trace-base',
) as typeof Traces;

/** As Node's context manager keeps it. */
const contexts = new AsyncLocalStorage<Api.Context>();
const spans = new InMemorySpanExporter();
let metrics: Metrics.InMemoryMetricExporter;
let reader: Metrics.PeriodicExportingMetricReader;

beforeEach(() => {
  spans.reset();
  metrics = new InMemoryMetricExporter(AggregationTemporality.CUMULATIVE);
  reader = new PeriodicExportingMetricReader({ exporter: metrics, exportIntervalMillis: 3_600_000 });
  api.metrics.setGlobalMeterProvider(new MeterProvider({ readers: [reader] }));
  api.trace.setGlobalTracerProvider(new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(spans)] }));
  api.context.setGlobalContextManager({
    active: () => contexts.getStore() ?? api.ROOT_CONTEXT,
    with: (context, what, self, ...given) => contexts.run(context, () => what.call(self as never, ...given)),
    bind: (_, target) => target,
    enable() {
      return this;
    },
    disable() {
      return this;
    },
  });
});
afterEach(async () => {
  await reader.shutdown();
  api.metrics.disable();
  api.trace.disable();
  api.context.disable();
});

/** By the name of the instrument: what was counted, or how many were measured, by labels. */
async function measured() {
  await reader.forceFlush();
  const all = new Map<string, { labels: Readonly<Record<string, unknown>>; value: unknown }[]>();
  for (const { descriptor, dataPoints } of metrics.getMetrics().at(-1)?.scopeMetrics[0]?.metrics ?? []) {
    const points = dataPoints.map(({ attributes, value }) => ({
      labels: attributes,
      value: typeof value === 'number' ? value : (value as { count: number }).count,
    }));
    all.set(descriptor.name, points);
  }
  return all;
}

async function scene(options: { readonly stops?: boolean } = {}) {
  const seen = telemetry(api);
  const tracer = api.trace.getTracer('bot');
  const lamp = command({
    name: 'lamp',
    aliases: ['light'],
    description: 'Light the lamp',
    args: { note: arg.tail({ optional: true }) },
    cooldowns: { user: '1 in 1m' },
    async run() {
      await Promise.resolve();
      tracer.startSpan('look for matches').end();
      return 'The lamp is lit.';
    },
  });
  const broken = command({
    name: 'broken',
    description: 'Fails',
    run: () => {
      throw new RangeError('Wren has no matches');
    },
  });
  const store = seen.store(memoryStore());
  let leave = () => undefined as void;
  const bot = await oddmere(({ clock }) => {
    const layer = createCommandLayer({
      commands: [lamp, broken, fine],
      prefixes: ['!'],
      clock,
      log: silentLog,
      store,
      settings: guildSettings({ store }),
      asking: askInChat(),
      ...seen.hooks,
      damping: '1 in 1m',
    });
    leave = seen.watch(layer);
    return layer;
  });
  if (options.stops === true) leave();
  return bot;
}

describe('a call is a span', () => {
  test('with its stages as events, and what its handler does inside it', async () => {
    const bot = await scene();
    await bot.types('wren', '!light for the shed');
    const [inner, outer] = spans.getFinishedSpans();
    expect(outer).toMatchObject({
      name: 'call lamp',
      kind: api.SpanKind.SERVER,
      attributes: {
        'taxeon.command': 'lamp',
        'taxeon.platform': 'stand-in',
        'taxeon.surface': 'text',
        'taxeon.status': 'completed',
      },
    });
    expect(outer?.events.map(({ name }) => name)).toEqual([
      'resolve',
      'reach',
      'access',
      'read',
      'standing',
      'limits',
      'run',
      'reply',
    ]);
    expect([inner?.name, inner?.parentSpanContext?.spanId]).toEqual(['look for matches', outer?.spanContext().spanId]);
  });

  test('that says what failed and where that stands in the log, and nothing that was typed', async () => {
    const bot = await scene();
    const { outcome } = await bot.types('wren', '!broken');
    const { reference } = (outcome as { parameters: { reference: string } }).parameters;
    const [span] = spans.getFinishedSpans();
    expect(span).toMatchObject({
      name: 'call broken',
      status: { code: api.SpanStatusCode.ERROR, message: 'handler.failed' },
      attributes: { 'error.type': 'handler.failed', 'taxeon.reference': reference },
    });
    expect(span?.events.find(({ name }) => name === 'exception')?.attributes).toEqual({
      'exception.type': 'RangeError',
    });
    await bot.types('wren', '!lmap for Ines');
    const told = JSON.stringify(
      spans.getFinishedSpans().map(({ name, attributes, events }) => [name, attributes, events]),
    );
    expect(told).not.toMatch(/wren|ines|matches|counter|oddmere/i);
  });
});

describe('metrics', () => {
  test('count calls by command, status and code, and time layer, handler, store and platform apart', async () => {
    const bot = await scene();
    await bot.types('wren', '!lamp');
    for (let time = 0; time < 4; time++) await bot.types('wren', '!lamp');
    await bot.invokes('ines', 'lamp');
    await bot.types('ines', '!broken');
    const all = await measured();
    const calls = (all.get('taxeon.calls') ?? []).map(({ labels, value }) => [
      labels['taxeon.command'],
      labels['taxeon.surface'],
      labels['taxeon.status'],
      labels['taxeon.code'],
      value,
    ]);
    expect(calls).toEqual([
      ['lamp', 'text', 'completed', undefined, 1],
      ['lamp', 'text', 'refused', 'cooldown.active', 4],
      ['lamp', 'slash', 'completed', undefined, 1],
      ['broken', 'text', 'failed', 'handler.failed', 1],
    ]);
    const count = (name: string) => (all.get(name) ?? []).reduce((sum, { value }) => sum + Number(value), 0);
    expect([count('taxeon.call.duration'), count('taxeon.layer.duration')]).toEqual([7, 7]);
    expect([count('taxeon.handler.duration'), count('taxeon.platform.duration')]).toEqual([3, 7]);
    expect(all.get('taxeon.store.duration')?.map(({ labels }) => labels['taxeon.operation'])).toContain('acquire');
    expect(count('taxeon.replies.held_back')).toBeGreaterThan(0);
    expect(JSON.stringify([...all])).not.toMatch(/wren|ines|oddmere|counter/i);
  });

  test('tell how many questions are open', async () => {
    const bot = await scene();
    await bot.types('ines', '!fine');
    expect((await measured()).get('taxeon.questions.open')).toEqual([{ labels: {}, value: 1 }]);
    await bot.types('ines', 'stop');
    expect((await measured()).get('taxeon.questions.open')).toEqual([{ labels: {}, value: 0 }]);
  });

  test('name what a store fails with', async () => {
    const { store } = telemetry(api);
    const failing = store({ ...memoryStore(), read: () => Promise.reject(new TypeError('no')) });
    await expect(failing.read('v')).rejects.toThrow('no');
    expect((await measured()).get('taxeon.store.duration')).toEqual([
      { labels: { 'taxeon.operation': 'read', 'error.type': 'TypeError' }, value: 1 },
    ]);
  });
});

test('a store that is an object of a class keeps all that it can', async () => {
  const inner = memoryStore();
  class OwnStore {}
  for (const name of Object.keys(inner) as (keyof typeof inner)[])
    Object.defineProperty(OwnStore.prototype, name, { value: inner[name] });
  const observed = telemetry(api).store(new OwnStore() as never);
  expect(Object.keys(inner).filter((name) => typeof observed[name as keyof typeof observed] !== 'function')).toEqual(
    [],
  );
  expect(await observed.increment('n', 2)).toBe(2);
});

test('nothing is told any more once it is ended, nor where no SDK listens', async () => {
  const ended = await scene({ stops: true });
  await ended.types('wren', '!lamp');
  expect(spans.getFinishedSpans().map(({ name }) => name)).toEqual(['look for matches']);
  api.metrics.disable();
  api.trace.disable();
  const bot = await scene();
  expect((await bot.types('ines', '!lamp')).outcome.status).toBe('completed');
});

test.each([undefined, {}, { trace: {} }, 'api'])('%j in place of the API is told, with what to install', (given) => {
  expect(() => telemetry(given as never)).toThrow('npm install @opentelemetry/api');
});
