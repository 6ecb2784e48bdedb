import { axes, colour, drawing, tooltip } from '../../client/drawing.ts';

interface Hours {
  today: number[];
  yesterday: number[];
  hourNow: number;
}

/** Bars of 24 hours: today in front (the hour under way in brass), yesterday behind. */
export function hourChart(element: HTMLElement) {
  let shown: Hours | null = null;
  const { again, dispose } = drawing(element, () => shown && hourBars(shown));
  return {
    update(hours: Hours) {
      shown = hours;
      again();
    },
    dispose,
  };
}

function hourBars({ today, yesterday, hourNow }: Hours) {
  const { xAxis, yAxis } = axes(today.map((_, hour) => String(hour).padStart(2, '0')));
  return {
    grid: { left: 28, right: 4, top: 8, bottom: 20 },
    tooltip: { ...tooltip(), valueFormatter: (value: unknown) => `${value} ${value === 1 ? 'lead' : 'leads'}` },
    xAxis: { ...xAxis, axisLabel: { ...xAxis.axisLabel, interval: 2 } },
    yAxis: { ...yAxis, minInterval: 1 },
    series: [
      {
        ...{ name: 'Yesterday', type: 'bar', data: yesterday, barGap: '-100%', barCategoryGap: '18%' },
        itemStyle: { color: colour('--color-base-300'), borderRadius: [3, 3, 0, 0] },
      },
      {
        ...{ name: 'Today', type: 'bar', itemStyle: { borderRadius: [3, 3, 0, 0] } },
        data: today.map((value, hour) => ({
          value,
          itemStyle: { color: colour(hour === hourNow ? '--brass-line' : '--pine-line') },
        })),
      },
    ],
  };
}
