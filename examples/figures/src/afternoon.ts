/** Plays the demo's afternoon with OpenTelemetry's own SDK behind the layer, and gives what that was told. */

import { type DemoData, mallet } from '@oddmere/tool-library';
import afternoon from '@oddmere/tool-library/data/afternoon.tryout.yaml';
import oddmere from '@oddmere/tool-library/data/oddmere.yaml';
import * as api from '@opentelemetry/api';
import {
  AggregationTemporality,
  InMemoryMetricExporter,
  MeterProvider,
  type MetricData,
  PeriodicExportingMetricReader,
} from '@opentelemetry/sdk-metrics';
import {
  BasicTracerProvider,
  InMemorySpanExporter,
  type ReadableSpan,
  SimpleSpanProcessor,
} from '@opentelemetry/sdk-trace-base';
import { standIn, type VirtualClock, virtualClock } from '@taxeon/testing';
import { checkTryout, keptLog, playTryout } from '@taxeon/testing/tryouts';
import { memoryStore } from 'taxeon';
import { telemetry } from 'taxeon/telemetry';

export interface Seen {
  readonly metrics: readonly MetricData[];
  readonly spans: readonly ReadableSpan[];
}

export async function playAfternoon(): Promise<Seen> {
  const exporter = new InMemoryMetricExporter(AggregationTemporality.CUMULATIVE);
  const reader = new PeriodicExportingMetricReader({ exporter, exportIntervalMillis: 3_600_000 });
  api.metrics.setGlobalMeterProvider(new MeterProvider({ readers: [reader] }));
  const spans = new InMemorySpanExporter();
  api.trace.setGlobalTracerProvider(new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(spans)] }));

  const seen = telemetry(api);
  const tryout = checkTryout(afternoon);
  const clock = timed(virtualClock(Date.parse(tryout.begins)));
  const data = oddmere as DemoData;
  const log = keptLog();
  const store = seen.store(memoryStore({ clock }));
  const layer = mallet(data, { clock, log, store, ...seen.hooks, owners: ['stand-in/odalys'] });
  const stop = seen.watch(layer);
  // Files cannot be saved in a browser.
  const events = Object.fromEntries(
    tryout.lines.flatMap((line) => ('happens' in line ? [[line.happens, () => undefined]] : [])),
  );
  for await (const _ of playTryout(tryout, { layer, platform: standIn(data.world, { clock }), events }, clock, log));
  await layer.close();
  await reader.forceFlush();
  stop();
  const metrics = exporter.getMetrics().flatMap(({ scopeMetrics }) => scopeMetrics.flatMap((scope) => scope.metrics));
  return { metrics, spans: spans.getFinishedSpans() };
}

/** The afternoon passes in a moment, and yet each stage takes what it takes. */
function timed(clock: VirtualClock): VirtualClock {
  const begun = performance.now();
  return { ...clock, elapsed: () => (clock.elapsed?.() ?? clock.now()) + performance.now() - begun };
}
