/** What was told, as tables and bars. */
import type { Histogram, MetricData } from '@opentelemetry/sdk-metrics';
import type { ReadableSpan } from '@opentelemetry/sdk-trace-base';
import '../../playground/src/style.css';
import { playAfternoon } from './afternoon.js';
import { type Cell, element } from './element.js';
import './figures.css';

const STATUSES = ['completed', 'waiting', 'refused', 'invalid', 'failed'] as const;

function table(caption: string, heads: readonly string[], rows: readonly (readonly Cell[])[]): HTMLElement {
  return element(
    'table',
    {},
    element('caption', {}, caption),
    element('thead', {}, element('tr', {}, ...heads.map((head) => element('th', { scope: 'col' }, head)))),
    element(
      'tbody',
      {},
      ...rows.map(([first = '', ...cells]) =>
        element('tr', {}, element('th', { scope: 'row' }, first), ...cells.map((cell) => element('td', {}, cell))),
      ),
    ),
  );
}

/** Parts beside each other, of a whole that is as long as the row. */
function bar(parts: readonly { readonly kind: string; readonly share: number; readonly told: string }[]): HTMLElement {
  return element(
    'span',
    { class: 'bar', role: 'img', 'aria-label': parts.map(({ told }) => told).join(', ') },
    ...parts
      .filter(({ share }) => share > 0)
      .map(({ kind, share, told }) =>
        element('span', { class: `part ${kind}`, style: `width: ${(share * 100).toFixed(2)}%`, title: told }),
      ),
  );
}

/** By the value of a label. */
function sumsBy(metric: MetricData | undefined, ...labels: readonly string[]): ReadonlyMap<string, number> {
  const sums = new Map<string, number>();
  for (const { attributes, value } of metric?.dataPoints ?? []) {
    const key = labels.map((label) => String(attributes[label] ?? '')).join(' ');
    sums.set(key, (sums.get(key) ?? 0) + (typeof value === 'number' ? value : 0));
  }
  return sums;
}

interface Times {
  readonly count: number;
  readonly meanMs: number;
  readonly mostMs: number;
}

function timesBy(metric: MetricData | undefined, label: string): ReadonlyMap<string, Times> {
  const all = new Map<string, Times>();
  for (const { attributes, value } of metric?.dataPoints ?? []) {
    const { count, sum = 0, max = 0 } = value as Histogram;
    const key = String(attributes[label] ?? '');
    const before = all.get(key) ?? { count: 0, meanMs: 0, mostMs: 0 };
    const counted = before.count + count;
    const meanMs = (before.meanMs * before.count + sum * 1000) / counted;
    all.set(key, { count: counted, meanMs, mostMs: Math.max(before.mostMs, max * 1000) });
  }
  return all;
}

const milliseconds = (ms: number) => (ms >= 1000 ? `${(ms / 1000).toFixed(1)} s` : `${ms.toFixed(ms < 10 ? 2 : 0)} ms`);
const nameOf = (command: string) => (command === '' ? '(no command)' : command);

function endings(calls: MetricData | undefined): HTMLElement {
  const byBoth = sumsBy(calls, 'taxeon.command', 'taxeon.status');
  const byCommand = [...sumsBy(calls, 'taxeon.command')].sort(([, a], [, b]) => b - a);
  const most = Math.max(...byCommand.map(([, count]) => count));
  const rows = byCommand.map(([command, count]) => [
    nameOf(command),
    bar(
      STATUSES.map((status) => {
        const part = byBoth.get(`${command} ${status}`) ?? 0;
        return { kind: status, share: part / most, told: `${part} ${status}` };
      }),
    ),
    String(count),
  ]);
  return table('How calls ended', ['command', 'how', 'calls'], rows);
}

function reasons(calls: MetricData | undefined): HTMLElement {
  const all = [...sumsBy(calls, 'taxeon.code')].filter(([code]) => code !== '').sort(([, a], [, b]) => b - a);
  const most = Math.max(...all.map(([, count]) => count));
  const rows = all.map(([code, count]) => [
    code,
    bar([{ kind: 'plain', share: count / most, told: `${count} times` }]),
    String(count),
  ]);
  return table('Why the others did not run', ['code', 'how often', 'calls'], rows);
}

function durations(caption: string, all: ReadonlyMap<string, Times>, first: string): HTMLElement {
  const sorted = [...all].sort(([, a], [, b]) => b.meanMs - a.meanMs);
  const most = Math.max(...sorted.map(([, { meanMs }]) => meanMs));
  const rows = sorted.map(([name, { count, meanMs, mostMs }]) => [
    nameOf(name),
    bar([{ kind: 'plain', share: meanMs / most, told: `${milliseconds(meanMs)} in the mean` }]),
    milliseconds(meanMs),
    milliseconds(mostMs),
    String(count),
  ]);
  return table(caption, [first, 'beside the others', 'mean', 'longest', 'times'], rows);
}

/** The stages of one call, each where it was. */
function stagesOf({ name, events, startTime, duration }: ReadableSpan): HTMLElement {
  const inMs = ([seconds, nanoseconds]: readonly [number, number]) => seconds * 1000 + nanoseconds / 1e6;
  const wholeMs = Math.max(inMs(duration), 0.001);
  let before = 0;
  const rows = events.map((event) => {
    const at = inMs(event.time) - inMs(startTime);
    const tookMs = Math.max(0, at - before);
    const row = [
      event.name,
      bar([
        { kind: 'gap', share: before / wholeMs, told: '' },
        { kind: 'plain', share: tookMs / wholeMs, told: milliseconds(tookMs) },
      ]),
      milliseconds(tookMs),
    ];
    before = at;
    return row;
  });
  return table(`One call, ${name.replace('call ', '')}: ${milliseconds(wholeMs)}`, ['stage', 'when', 'took'], rows);
}

function legend(): HTMLElement {
  return element(
    'p',
    { class: 'legend' },
    ...STATUSES.flatMap((status) => [element('span', { class: `part ${status}` }), ` ${status}   `]),
  );
}

async function show(page: HTMLElement): Promise<void> {
  const { metrics, spans } = await playAfternoon();
  const metric = (name: string) => metrics.find(({ descriptor }) => descriptor.name === name);
  const calls = metric('taxeon.calls');
  const count = [...sumsBy(calls, 'taxeon.surface').values()].reduce((sum, one) => sum + one, 0);
  const heldBack = [...sumsBy(metric('taxeon.replies.held_back'), 'taxeon.code').values()].reduce(
    (sum, one) => sum + one,
    0,
  );
  const shown = spans.find(
    ({ attributes, name }) => name === 'call borrow' && attributes['taxeon.status'] === 'completed',
  );
  page.append(
    element(
      'header',
      {},
      element('h1', {}, 'An afternoon in figures'),
      element(
        'p',
        {},
        `What OpenTelemetry was told of ${count} calls to Mallet. ${heldBack} refusals were not told again.`,
      ),
    ),
    element(
      'div',
      { class: 'figures', role: 'main' },
      element('section', {}, legend(), endings(calls)),
      element('section', {}, reasons(calls)),
      element(
        'section',
        {},
        durations('What of a call is the layer', timesBy(metric('taxeon.layer.duration'), 'taxeon.command'), 'command'),
      ),
      element(
        'section',
        {},
        durations(
          'What of a call is its handler',
          timesBy(metric('taxeon.handler.duration'), 'taxeon.command'),
          'command',
        ),
        durations('The store', timesBy(metric('taxeon.store.duration'), 'taxeon.operation'), 'operation'),
        ...(shown === undefined ? [] : [stagesOf(shown)]),
      ),
    ),
  );
}

const page = document.getElementById('page');
if (page === null) throw new Error('The page has no main part');
void show(page);
