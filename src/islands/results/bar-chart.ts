import { BarChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TooltipComponent } from 'echarts/components';
import { init, use as register } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

register([BarChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);

const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();
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
  const chart = init(element, null, { renderer: 'svg' });
  const size = new ResizeObserver(() => chart.resize());
  size.observe(element);
  let shown: Bars | null = null;
  const draw = () => {
    if (!shown) return;
    const ink = colour('--ink-2');
    const { names, series, words } = shown;
    chart.setOption(
      {
        animation: false,
        textStyle: { fontFamily: getComputedStyle(document.body).fontFamily },
        grid: { left: 34, right: 8, top: series.length > 1 ? 34 : 10, bottom: 24 },
        ...(series.length > 1
          ? {
              legend: {
                top: 0,
                left: 0,
                itemHeight: 10,
                itemWidth: 14,
                textStyle: { color: ink, fontSize: 12 },
                type: 'plain',
              },
            }
          : {}),
        tooltip: {
          trigger: 'axis',
          confine: true,
          backgroundColor: colour('--color-base-100'),
          borderColor: colour('--color-base-300'),
          textStyle: { color: colour('--color-base-content'), fontSize: 12 },
          valueFormatter: (value: unknown) => words(Number(value)),
        },
        xAxis: {
          type: 'category',
          data: names,
          axisTick: { show: false },
          axisLine: { lineStyle: { color: colour('--color-base-300') } },
          axisLabel: { color: ink, fontSize: 11, hideOverlap: true },
        },
        yAxis: {
          type: 'value',
          splitLine: { lineStyle: { color: colour('--color-base-300'), opacity: 0.5 } },
          axisLabel: { color: ink, fontSize: 11, formatter: (value: number) => words(value) },
        },
        series: series.map(({ name, values }, i) => ({
          name: name || 'No mark',
          type: 'bar',
          stack: 'all',
          barMaxWidth: 44,
          barCategoryGap: '22%',
          data: values,
          itemStyle: { color: colour(SERIES[i % SERIES.length]!) },
        })),
      },
      true,
    );
  };
  const dark = matchMedia('(prefers-color-scheme: dark)');
  dark.addEventListener('change', draw);
  return {
    update(bars: Bars) {
      shown = bars;
      draw();
    },
    dispose() {
      dark.removeEventListener('change', draw);
      size.disconnect();
      chart.dispose();
    },
  };
}
