/** The plot of grants and refusals, a row for each person and command. */
import { useEffect, useRef } from 'react';
import uPlot from 'uplot';
import 'uplot/dist/uPlot.min.css';
import { type Judged, timeOfDay } from './workshop.js';

interface TimelineProps {
  readonly judged: readonly Judged[];
  readonly rows: readonly string[];
  readonly now: number;
  /** In milliseconds; nothing is shaded without one. */
  readonly window: number | undefined;
  /** The row whose window is shaded. */
  readonly row: number;
}

const ROW_HEIGHT = 34;

export function Timeline({ judged, rows, now, window, row }: TimelineProps) {
  const place = useRef<HTMLDivElement>(null);
  const plot = useRef<uPlot | undefined>(undefined);
  const latest = useRef({ now, window, row });
  latest.current = { now, window, row };

  const rowsKey = rows.join('\n');
  // biome-ignore lint/correctness/useExhaustiveDependencies: a plot is made anew only for other rows
  useEffect(() => {
    const element = place.current;
    if (element === null) return;
    const made = new uPlot(
      optionsFor(rows, element, () => latest.current),
      dataOf(judged, rows, now, window),
      element,
    );
    plot.current = made;
    return () => made.destroy();
  }, [rowsKey]);

  useEffect(() => {
    plot.current?.setData(dataOf(judged, rows, now, window));
  }, [judged, rows, now, window]);

  const told = rows.map((one) => {
    const own = judged.filter(({ person, command }) => `${person}: ${command}` === one);
    return `${one}, ${own.filter(({ granted }) => granted).length} granted, ${own.filter(({ granted }) => !granted).length} refused`;
  });
  return <div ref={place} className="timeline" role="img" aria-label={`Timeline. ${told.join('. ')}`} />;
}

/** The first and the last moment are part of the data, so that the plot reaches over the window up to now. */
function dataOf(judged: readonly Judged[], rows: readonly string[], now: number, window = 60_000): uPlot.AlignedData {
  const first = Math.min(now - window * 1.2, ...judged.map(({ at }) => at));
  const all = [
    { at: first, row: null, granted: true },
    ...judged.map((one) => ({ at: one.at, row: rows.indexOf(`${one.person}: ${one.command}`), granted: one.granted })),
    { at: now, row: null, granted: true },
  ];
  all.sort((a, b) => a.at - b.at);
  const times = all.map(({ at }) => at / 1000);
  return [
    times,
    all.map(({ row, granted }) => (granted ? row : null)),
    all.map(({ row, granted }) => (granted ? null : row)),
  ];
}

function optionsFor(
  rows: readonly string[],
  element: HTMLElement,
  state: () => { readonly now: number; readonly window: number | undefined; readonly row: number },
): uPlot.Options {
  const style = getComputedStyle(element);
  const ink = style.getPropertyValue('--ink').trim();
  const faint = style.getPropertyValue('--rule').trim();
  const shade = style.getPropertyValue('--shade').trim();
  const axis = {
    stroke: ink,
    grid: { stroke: faint, width: 1 },
    ticks: { stroke: faint },
    font: `13px ${style.fontFamily}`,
  };
  return {
    width: element.clientWidth,
    height: 60 + rows.length * ROW_HEIGHT,
    legend: { show: false },
    cursor: { show: false },
    scales: { x: { time: true }, y: { dir: -1, range: [-0.5, rows.length - 0.5] } },
    tzDate: (seconds) => uPlot.tzDate(new Date(seconds * 1000), 'Etc/UTC'),
    axes: [
      { ...axis, values: (_, splits) => splits.map((seconds) => timeOfDay(seconds * 1000).slice(0, 5)) },
      { ...axis, size: 130, splits: () => rows.map((_, index) => index), values: () => [...rows] },
    ],
    series: [
      {},
      { paths: () => null, points: { show: true, size: 9, fill: ink, stroke: ink } },
      { paths: () => null, points: { show: (chart, series) => drawRefusals(chart, series, ink) } },
    ],
    hooks: { drawClear: [(chart) => shadeWindow(chart, state(), shade)] },
  };
}

function shadeWindow(
  chart: uPlot,
  { now, window, row }: { readonly now: number; readonly window: number | undefined; readonly row: number },
  shade: string,
): void {
  if (window === undefined || row < 0) return;
  const left = chart.valToPos((now - window) / 1000, 'x', true);
  const right = chart.valToPos(now / 1000, 'x', true);
  const top = chart.valToPos(row - 0.5, 'y', true);
  const bottom = chart.valToPos(row + 0.5, 'y', true);
  chart.ctx.save();
  chart.ctx.fillStyle = shade;
  chart.ctx.fillRect(left, Math.min(top, bottom), right - left, Math.abs(bottom - top));
  chart.ctx.restore();
}

/** Crosses, so that they differ from grants without colour. */
function drawRefusals(chart: uPlot, series: number, ink: string): boolean {
  const { ctx } = chart;
  const size = 5 * devicePixelRatio;
  ctx.save();
  ctx.strokeStyle = ink;
  ctx.lineWidth = 2 * devicePixelRatio;
  for (const [index, row] of (chart.data[series] ?? []).entries()) {
    if (row === null || row === undefined) continue;
    const x = chart.valToPos(chart.data[0][index] as number, 'x', true);
    const y = chart.valToPos(row, 'y', true);
    ctx.beginPath();
    ctx.moveTo(x - size, y - size);
    ctx.lineTo(x + size, y + size);
    ctx.moveTo(x + size, y - size);
    ctx.lineTo(x - size, y + size);
    ctx.stroke();
  }
  ctx.restore();
  return false;
}
