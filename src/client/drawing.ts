import { BarChart } from 'echarts/charts';
import { GridComponent, LegendComponent, TooltipComponent } from 'echarts/components';
import { init, use as register } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

register([BarChart, GridComponent, LegendComponent, TooltipComponent, SVGRenderer]);

/** A colour of the theme as it is now, by its name there. */
export const colour = (name: string): string =>
  getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Somewhere to draw that keeps to the size of its place and is drawn anew when the device turns dark or light. `draw` gives what ECharts is to show. */
export function drawing(element: HTMLElement, draw: () => Record<string, unknown> | null) {
  const chart = init(element, null, { renderer: 'svg' });
  const size = new ResizeObserver(() => chart.resize());
  size.observe(element);
  const again = () => {
    const shown = draw();
    if (!shown) return;
    chart.setOption(
      { animation: false, textStyle: { fontFamily: getComputedStyle(document.body).fontFamily }, ...shown },
      true,
    );
  };
  const dark = matchMedia('(prefers-color-scheme: dark)');
  dark.addEventListener('change', again);
  return {
    again,
    dispose() {
      dark.removeEventListener('change', again);
      size.disconnect();
      chart.dispose();
    },
  };
}

/** What charts have in common, in the theme's colours. */
export const tooltip = () => ({
  trigger: 'axis',
  confine: true,
  backgroundColor: colour('--color-base-100'),
  borderColor: colour('--color-base-300'),
  textStyle: { color: colour('--color-base-content'), fontSize: 12 },
});
export const axes = (names: string[]) => ({
  xAxis: {
    type: 'category',
    data: names,
    axisTick: { show: false },
    axisLine: { lineStyle: { color: colour('--color-base-300') } },
    axisLabel: { color: colour('--ink-2'), fontSize: 11 },
  },
  yAxis: {
    type: 'value',
    splitLine: { lineStyle: { color: colour('--color-base-300'), opacity: 0.5 } },
    axisLabel: { color: colour('--ink-2'), fontSize: 11 },
  },
});
