import { mkdirSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import * as echarts from 'echarts';

/** Where pictures and the figures they are made of go. */
export const pictureFolder = fileURLToPath(new URL('../../docs/performance', import.meta.url));
mkdirSync(pictureFolder, { recursive: true });

const TEXT = { fontFamily: 'sans-serif', color: '#1f2a24' };
const drawn = (options, height) => {
  const chart = echarts.init(null, null, { renderer: 'svg', ssr: true, width: 860, height });
  chart.setOption({ animation: false, textStyle: TEXT, backgroundColor: '#ffffff', ...options });
  const svg = chart.renderToSVGString();
  chart.dispose();
  return `${svg}\n`;
};
const PALETTE = ['#1f5c46', '#b5651d', '#3a6ea5', '#8a3b5c', '#6b7d2a', '#5b4b8a', '#a33b2b', '#4a5a57'];

/** Lines over a logarithmic scale of size; `goal` is what they should stay below. */
export const growth = ({ title, x, y, goal, lines }) =>
  drawn(
    {
      color: PALETTE,
      title: { text: title, left: 16, top: 12, textStyle: { ...TEXT, fontSize: 15 } },
      grid: { left: 60, right: 210, top: 84, bottom: 52 },
      legend: { orient: 'vertical', right: 12, top: 84, textStyle: TEXT },
      xAxis: {
        ...{ type: 'log', name: x, nameLocation: 'middle', nameGap: 32 },
        min: Math.min(...lines[0].points.map(([size]) => size)),
        max: Math.max(...lines[0].points.map(([size]) => size)),
        axisLabel: { formatter: (value) => value.toLocaleString('en') },
      },
      yAxis: {
        type: 'value',
        name: y,
        min: 0,
        max: Math.max(goal * 1.1, ...lines.flatMap((line) => line.points.map((p) => p[1]))),
      },
      series: lines.map(({ name, points }, i) => ({
        ...{ type: 'line', name, data: points, symbolSize: 7 },
        ...(i === 0
          ? {
              markLine: {
                silent: true,
                symbol: 'none',
                label: { formatter: `goal ${goal} ${y}`, position: 'insideEndTop' },
                lineStyle: { color: '#a33b2b', type: 'dashed' },
                data: [{ yAxis: goal }],
              },
            }
          : {}),
      })),
    },
    420,
  );

/** Bars side by side: a group for each load, a bar for each of `bars`. */
export const compared = ({ title, y, groups, bars }) =>
  drawn(
    {
      color: PALETTE,
      title: { text: title, left: 16, top: 12, textStyle: { ...TEXT, fontSize: 15 } },
      grid: { left: 60, right: 24, top: 104, bottom: 36 },
      legend: { left: 16, top: 40, itemGap: 40, textStyle: TEXT },
      xAxis: { type: 'category', data: groups },
      yAxis: { type: 'value', name: y },
      series: bars.map(({ name, values }) => ({
        ...{ type: 'bar', name, data: values, barMaxWidth: 46 },
        label: { show: true, position: 'top', ...TEXT, fontSize: 11 },
      })),
    },
    340,
  );
