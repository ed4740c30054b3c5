/** What is used of `@opentelemetry/api`, so that the library needs it neither at run time nor for its types. */

type Attributes = Readonly<Record<string, string | number>>;

export interface TraceSpan {
  isRecording(): boolean;
  updateName(name: string): unknown;
  setAttributes(attributes: Attributes): unknown;
  setStatus(status: { readonly code: number; readonly message?: string }): unknown;
  addEvent(name: string, attributes: Attributes | undefined, time?: number): unknown;
  end(time?: number): void;
}

export interface Instrument {
  add(value: number, attributes?: Attributes): void;
  record(value: number, attributes?: Attributes): void;
}

interface InstrumentOptions {
  readonly description: string;
  readonly unit: string;
  readonly advice?: { readonly explicitBucketBoundaries: number[] };
}

/** Gives a value when it is asked for. */
export type Observe = (result: { observe(value: number): void }) => void;

/** What `import * as api from '@opentelemetry/api'` gives; version 1 from 1.3 on. */
export interface OpenTelemetryApi {
  readonly trace: {
    getTracer(
      name: string,
      version?: string,
    ): { startSpan(name: string, options: { readonly kind: number }): TraceSpan };
    setSpan(context: never, span: never): unknown;
    getTracerProvider(): object;
  };
  readonly context: { active(): unknown; with<T>(context: never, what: () => T): T };
  readonly metrics: {
    getMeter(
      name: string,
      version?: string,
    ): {
      createCounter(name: string, options: InstrumentOptions): Pick<Instrument, 'add'>;
      createHistogram(name: string, options: InstrumentOptions): Pick<Instrument, 'record'>;
      createObservableGauge(
        name: string,
        options: InstrumentOptions,
      ): { addCallback(observe: Observe): void; removeCallback(observe: Observe): void };
    };
  };
}
