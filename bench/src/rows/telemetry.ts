/** What telling OpenTelemetry costs a call: with nobody behind it, and with its SDK. */
import * as api from '@opentelemetry/api';
import { MeterProvider } from '@opentelemetry/sdk-metrics';
import { BasicTracerProvider, InMemorySpanExporter, SimpleSpanProcessor } from '@opentelemetry/sdk-trace-base';
import { telemetry } from 'taxeon/telemetry';
import { layeredBot } from '../bots/layered.js';
import { compare, type Side } from '../measure/compare.js';
import type { Row } from '../measure/row.js';
import { CALLS, layered } from '../measure/sides.js';

const bare = () => layered('text', (clock) => layeredBot({ clock }));

function told(): Side {
  return layered('told', (clock) => {
    const seen = telemetry(api);
    const layer = layeredBot({ clock, ...seen.hooks });
    seen.watch(layer);
    return layer;
  });
}

/** As the SDK takes them, without what sends them somewhere. */
function toldToSdk(): Side {
  const spans = new InMemorySpanExporter();
  api.metrics.setGlobalMeterProvider(new MeterProvider());
  api.trace.setGlobalTracerProvider(new BasicTracerProvider({ spanProcessors: [new SimpleSpanProcessor(spans)] }));
  const { batch, ...side } = told();
  return {
    ...side,
    batch(size) {
      spans.reset();
      return batch(size);
    },
  };
}

export const onTelemetry: readonly Row[] = [
  {
    name: 'telemetry-none',
    what: 'telling OpenTelemetry, behind whose API there is no SDK, over not telling it',
    goal: 1.25,
    unit: '×',
    why: 'Each of the nine stages behind the gates is timed, as for any listener.',
    measure: () => compare({ ours: told, yardstick: bare, size: CALLS }),
  },
  {
    name: 'telemetry-sdk',
    what: 'a span with its stages and six metrics a call, taken by the SDK, over none',
    goal: 6,
    unit: '×',
    measure: () => compare({ ours: toldToSdk, yardstick: bare, size: CALLS, rounds: 31 }),
  },
];
