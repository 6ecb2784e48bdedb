import { axes, colour, drawing, tooltip } from '../../client/drawing.ts';

/** Theme colours in the order of the series; told apart in grey, too. */
const SERIES = ['--color-primary', '--brass-line', '--pine-line', '--mulberry-line', '--slate-line', '--bad-line'];

export interface Bars {
  /** Under each bar. */
  names: string[];
  series: { name: string; values: number[] }[];
  words: (value: number) => string;
}

/** Stacked bars in the theme's colours, in both of them. */
export function barChart(element: HTMLElement) {
  let shown: Bars | null = null;
  const { again, dispose } = drawing(element, () => shown && stacked(shown));
  return {
    update(bars: Bars) {
      shown = bars;
      again();
    },
    dispose,
  };
}

function stacked({ names, series, words }: Bars) {
  const { xAxis, yAxis } = axes(names);
  const legend = {
    ...{ top: 0, left: 0, itemHeight: 10, itemWidth: 14, type: 'plain' },
    textStyle: { color: colour('--ink-2'), fontSize: 12 },
  };
  return {
    grid: { left: 34, right: 8, top: series.length > 1 ? 34 : 10, bottom: 24 },
    ...(series.length > 1 ? { legend } : {}),
    tooltip: { ...tooltip(), valueFormatter: (value: unknown) => words(Number(value)) },
    xAxis: { ...xAxis, axisLabel: { ...xAxis.axisLabel, hideOverlap: true } },
    yAxis: { ...yAxis, axisLabel: { ...yAxis.axisLabel, formatter: (value: number) => words(value) } },
    series: series.map(({ name, values }, i) => ({
      ...{ name: name || 'No mark', type: 'bar', stack: 'all', barMaxWidth: 44, barCategoryGap: '22%', data: values },
      itemStyle: { color: colour(SERIES[i % SERIES.length]!) },
    })),
  };
}
