import { BarChart } from 'echarts/charts';
import { GridComponent, TooltipComponent } from 'echarts/components';
import { init, use as register } from 'echarts/core';
import { SVGRenderer } from 'echarts/renderers';

register([BarChart, GridComponent, TooltipComponent, SVGRenderer]);

const colour = (name: string) => getComputedStyle(document.documentElement).getPropertyValue(name).trim();

/** Bars of 24 hours: today in front (the hour under way in brass), yesterday behind. */
export function hourChart(element: HTMLElement) {
  const chart = init(element, null, { renderer: 'svg' });
  const size = new ResizeObserver(() => chart.resize());
  size.observe(element);
  return {
    update({ today, yesterday, hourNow }: { today: number[]; yesterday: number[]; hourNow: number }) {
      const ink = colour('--ink-2');
      const hours = today.map((_, hour) => String(hour).padStart(2, '0'));
      chart.setOption({
        animation: false,
        textStyle: { fontFamily: getComputedStyle(document.body).fontFamily },
        grid: { left: 28, right: 4, top: 8, bottom: 20 },
        tooltip: {
          trigger: 'axis',
          confine: true,
          backgroundColor: colour('--color-base-100'),
          borderColor: colour('--color-base-300'),
          textStyle: { color: colour('--color-base-content'), fontSize: 12 },
          valueFormatter: (value: unknown) => `${value} ${value === 1 ? 'lead' : 'leads'}`,
        },
        xAxis: {
          type: 'category',
          data: hours,
          axisTick: { show: false },
          axisLine: { lineStyle: { color: colour('--color-base-300') } },
          axisLabel: { color: ink, interval: 2, fontSize: 11 },
        },
        yAxis: {
          type: 'value',
          minInterval: 1,
          splitLine: { lineStyle: { color: colour('--color-base-300'), opacity: 0.5 } },
          axisLabel: { color: ink, fontSize: 11 },
        },
        series: [
          {
            name: 'Yesterday',
            type: 'bar',
            data: yesterday,
            barGap: '-100%',
            barCategoryGap: '18%',
            itemStyle: { color: colour('--color-base-300'), borderRadius: [3, 3, 0, 0] },
          },
          {
            name: 'Today',
            type: 'bar',
            itemStyle: { borderRadius: [3, 3, 0, 0] },
            data: today.map((value, hour) => ({
              value,
              itemStyle: { color: colour(hour === hourNow ? '--brass-line' : '--pine-line') },
            })),
          },
        ],
      });
    },
    dispose() {
      size.disconnect();
      chart.dispose();
    },
  };
}
