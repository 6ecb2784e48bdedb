import type { Field } from './field.ts';
import { storableText } from './field.ts';

export interface OrderLine {
  name: string;
  quantity: number | string;
  /** For one piece, as the shop writes it. */
  price: string;
  sku?: string | undefined;
}

/** The lines of an order as one field: a list for steps that go through it, and words for messages ("2 × Amber rosin"). */
export function orderLinesField(lines: readonly OrderLine[]): Field {
  return {
    key: 'order.lines',
    label: 'Order lines',
    value: lines.map((line) => `${line.quantity} × ${storableText(line.name)}`).join(', '),
    rows: lines.map((line) => ({
      name: storableText(line.name),
      quantity: String(line.quantity),
      price: storableText(line.price),
      ...(line.sku === undefined ? {} : { sku: storableText(line.sku) }),
    })),
  };
}
