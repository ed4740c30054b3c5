/**
 * Spans and metrics for OpenTelemetry. Names and units follow its semantic conventions: dotted and in lower case, seconds,
 * `error.type`. No label says who did something or what was typed.
 */

import { isThenable } from '../base/thenable.js';
import { version } from '../base/version.js';
import { type AroundHook, callOrigin } from '../commands/call.js';
import type { EndedEvent } from '../contract/events.js';
import type { Input } from '../contract/input.js';
import type { Store } from '../contract/store.js';
import type { CommandLayer } from '../layer/command-layer.js';
import { openQuestions } from '../queries/open-questions.js';

/** What is seen of a bot from outside. */
export interface Telemetry {
  /** For `createCommandLayer`: what a handler does is inside the span of its call. Empty where nobody takes spans. */
  readonly hooks: { readonly around?: AroundHook };
  /** Begins to tell of a layer. Gives what ends that. */
  watch(layer: CommandLayer): () => void;
  /** A store that is timed, for `createCommandLayer` and `guildSettings`. */
  store(store: Store): Store;
}

const NAME = 'taxeon';
/** A call comes from outside. */
const KIND_SERVER = 1;
const STATUS_ERROR = 2;

const CALLS = { description: 'Calls, by how they ended', unit: '{call}' };
const HELD_BACK = { description: 'Refusals that were told often enough', unit: '{reply}' };

/** In seconds: from a call in memory to one that waits for people. */
const SECONDS = [0.0001, 0.0005, 0.001, 0.0025, 0.005, 0.01, 0.025, 0.05, 0.1, 0.25, 0.5, 1, 2.5, 5, 10, 60];

/**
 * Tells OpenTelemetry of calls: a span each, with its stages as events, and metrics.
 *
 * @param api what `import * as api from '@opentelemetry/api'` gives, once an SDK was registered; without one nothing is told
 * @throws TypeError for what is something else
 *
 * @example
 * import * as api from '@opentelemetry/api';
 * import { telemetry } from 'taxeon/telemetry';
 *
 * const seen = telemetry(api);
 * const layer = createCommandLayer({ commands, store: seen.store(store), ...seen.hooks });
 * seen.watch(layer);
 */
export function telemetry(api: OpenTelemetryApi): Telemetry {
  mustBeApi(api);
  const tracer = api.trace.getTracer(NAME, version);
  const meter = api.metrics.getMeter(NAME, version);
  const inSeconds = (name: string, description: string) =>
    meter.createHistogram(name, { description, unit: 's', advice: { explicitBucketBoundaries: SECONDS } });
  const calls = meter.createCounter('taxeon.calls', CALLS);
  const whole = inSeconds('taxeon.call.duration', 'From when a call is heard until it is answered');
  const layers = inSeconds('taxeon.layer.duration', 'What of a call is not its handler');
  const handlers = inSeconds('taxeon.handler.duration', 'What of a call is its handler');
  const platforms = inSeconds('taxeon.platform.duration', 'How long handing over the answer takes');
  const stores = inSeconds('taxeon.store.duration', 'How long the store takes');
  const heldBack = meter.createCounter('taxeon.replies.held_back', HELD_BACK);
  const open = meter.createObservableGauge('taxeon.questions.open', {
    description: 'Questions that wait for an answer',
    unit: '{question}',
  });
  // Where nobody takes it, nothing is timed or put together.
  const [isCounted, isTraced] = [counts(meter), traces(api)];
  const spans = new WeakMap<Input, { readonly span: TraceSpan; readonly begunAt: number }>();

  function begin(input: Input): void {
    const span = tracer.startSpan('call', { kind: KIND_SERVER });
    if (span.isRecording()) spans.set(input, { span, begunAt: Date.now() });
  }

  function end(event: EndedEvent): void {
    const { input, platform = '', command, status, code, tookMs, outcome, stagesMs } = event;
    const stages = stagesMs();
    const of = command === undefined ? {} : { 'taxeon.command': command };
    const failed = status === 'failed' ? { 'error.type': code ?? 'unknown' } : {};
    const ended = {
      ...of,
      'taxeon.platform': platform,
      'taxeon.surface': input.surface,
      'taxeon.status': status,
      ...(code === undefined ? {} : { 'taxeon.code': code }),
      ...failed,
    };
    calls.add(1, ended);
    whole.record(tookMs / 1000, { ...of, 'taxeon.status': status, ...failed });
    const { run = 0, reply } = stages;
    layers.record((tookMs - run) / 1000, of);
    if (stages.run !== undefined) handlers.record(run / 1000, of);
    if (reply !== undefined) platforms.record(reply / 1000, { 'taxeon.platform': platform });
    if (outcome.heldBack !== undefined && code !== undefined) heldBack.add(1, { 'taxeon.code': code });
    const begun = spans.get(input);
    if (begun === undefined) return;
    spans.delete(input);
    endSpan(begun.span, begun.begunAt, ended, event, stages);
  }

  const around: AroundHook = (call, next) => {
    const span = spans.get(call[callOrigin].input)?.span;
    return span === undefined
      ? next()
      : api.context.with(api.trace.setSpan(api.context.active() as never, span as never) as never, next);
  };

  return {
    hooks: isTraced ? { around } : {},
    watch(layer) {
      if (!isCounted && !isTraced) return () => undefined;
      const observe: Observe = (result) => result.observe(openQuestions(layer));
      open.addCallback(observe);
      const leave = [
        layer.on('received', ({ input }) => begin(input)),
        layer.on('ended', end),
        () => open.removeCallback(observe),
      ];
      return () => {
        for (const one of leave) one();
      };
    },
    store: (store) =>
      isCounted
        ? observedStore(store, (operation, tookMs, error) =>
            stores.record(tookMs / 1000, {
              'taxeon.operation': operation,
              ...(error === undefined ? {} : { 'error.type': errorName(error) }),
            }),
          )
        : store,
  };
}

function endSpan(
  span: TraceSpan,
  begunAt: number,
  ended: Readonly<Record<string, string>>,
  { command, code, outcome, error, tookMs }: EndedEvent,
  stages: ReturnType<EndedEvent['stagesMs']>,
): void {
  const parameters = 'parameters' in outcome ? (outcome.parameters as Readonly<Record<string, unknown>>) : {};
  const { reference } = parameters;
  span.updateName(command === undefined ? 'call' : `call ${command}`);
  span.setAttributes(typeof reference === 'string' ? { ...ended, 'taxeon.reference': reference } : ended);
  let at = begunAt;
  for (const [stage, ms] of Object.entries(stages)) {
    at += ms;
    span.addEvent(stage, undefined, at);
  }
  if (outcome.status === 'failed') {
    if (error !== undefined) span.addEvent('exception', { 'exception.type': errorName(error) }, at);
    span.setStatus({ code: STATUS_ERROR, ...(code === undefined ? {} : { message: code }) });
  }
  span.end(begunAt + tookMs);
}

/** Its message may say what a person typed. */
function errorName(error: unknown): string {
  const { name } = Object(error) as { readonly name?: unknown };
  return typeof name === 'string' && name !== '' && name.length <= 100 ? name : 'Error';
}

/** Without an SDK, all counters are one that counts nothing. */
function counts(meter: ReturnType<OpenTelemetryApi['metrics']['getMeter']>): boolean {
  return meter.createCounter('taxeon.calls', CALLS) !== meter.createCounter('taxeon.replies.held_back', HELD_BACK);
}

/** Without an SDK, the provider of the API's own stands for no other. */
function traces({ trace }: OpenTelemetryApi): boolean {
  const provider = trace.getTracerProvider() as { getDelegateTracer?(name: string): unknown };
  return provider.getDelegateTracer === undefined || provider.getDelegateTracer(NAME) !== undefined;
}

function mustBeApi(api: unknown): void {
  const { trace, metrics, context } = Object(api) as Readonly<Record<string, Readonly<Record<string, unknown>>>>;
  const has = [trace?.['getTracer'], trace?.['setSpan'], metrics?.['getMeter'], context?.['with']];
  if (has.every((one) => typeof one === 'function')) return;
  throw new TypeError(
    'telemetry takes all that @opentelemetry/api exports, as `import * as api` gives it; install it with: npm install @opentelemetry/api',
  );
}

// A store whose answers are timed.
type Timed = Exclude<keyof Store, 'outlivesProcess' | 'live' | 'subscribe' | 'close'>;

/** @param told of each answer: the operation, how long it took in milliseconds, and what it failed with */
function observedStore(store: Store, told: (operation: Timed, tookMs: number, error?: unknown) => void): Store {
  const timed = <Name extends Timed>(operation: Name): Store[Name] => {
    const ask = store[operation].bind(store) as (...given: readonly unknown[]) => unknown;
    const asked = (...given: readonly unknown[]) => {
      const begun = performance.now();
      const tell = (error?: unknown) => told(operation, performance.now() - begun, error);
      try {
        const answer = ask(...given);
        if (isThenable(answer)) answer.then(() => tell(), tell);
        else tell();
        return answer;
      } catch (error) {
        tell(error);
        throw error;
      }
    };
    return asked as Store[Name];
  };
  // One by one: those of a class are not its own.
  return {
    ...(store.outlivesProcess === undefined ? {} : { outlivesProcess: store.outlivesProcess }),
    acquire: timed('acquire'),
    look: timed('look'),
    giveBack: timed('giveBack'),
    renew: timed('renew'),
    live: () => store.live(),
    reset: timed('reset'),
    read: timed('read'),
    compareAndSet: timed('compareAndSet'),
    increment: timed('increment'),
    entries: timed('entries'),
    publish: timed('publish'),
    subscribe: (topic, listener, missed) => store.subscribe(topic, listener, missed),
    close: () => store.close(),
  };
}

// What is used of `@opentelemetry/api`, so that the library needs it neither at run time nor for its types.
type Attributes = Readonly<Record<string, string | number>>;

interface TraceSpan {
  isRecording(): boolean;
  updateName(name: string): unknown;
  setAttributes(attributes: Attributes): unknown;
  setStatus(status: { readonly code: number; readonly message?: string }): unknown;
  addEvent(name: string, attributes: Attributes | undefined, time?: number): unknown;
  end(time?: number): void;
}

interface Instrument {
  add(value: number, attributes?: Attributes): void;
  record(value: number, attributes?: Attributes): void;
}

interface InstrumentOptions {
  readonly description: string;
  readonly unit: string;
  readonly advice?: { readonly explicitBucketBoundaries: number[] };
}

/** Gives a value when it is asked for. */
type Observe = (result: { observe(value: number): void }) => void;

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
