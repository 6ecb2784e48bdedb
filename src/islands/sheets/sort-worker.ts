import { orderOf } from '../../core/sheets/row-order.ts';
import type { ToSort } from './use-order.ts';

/** Sorts in a thread of its own: a long sheet takes a second, and the page is to go on scrolling meanwhile. */
self.onmessage = ({ data }: MessageEvent<ToSort>) => {
  const order = orderOf(data.cells, data.type, data.down, data.place);
  self.postMessage({ id: data.id, order }, { transfer: [order.buffer] });
};
