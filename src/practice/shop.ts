import { randomUUID } from 'node:crypto';
import type { IncomingMessage, ServerResponse } from 'node:http';
import { hasKey, readJson, reply } from './http.ts';
import type { Telling } from './subscribers.ts';
import type { Push, ShopCustomer, ShopOrder } from './world-state.ts';

export const GOODS = [
  { sku: 'RENT-VLN-34', name: 'Violin rental, three-quarter size, one month', price: 18 },
  { sku: 'STR-VLN-SET', name: 'Violin strings, set of four', price: 21.5 },
  { sku: 'BOOK-PNO-1', name: 'First piano pieces, sheet music', price: 12.95 },
  { sku: 'ROSIN-AMB', name: 'Amber rosin', price: 6.4 },
  { sku: 'STAND-FLD', name: 'Folding music stand', price: 16 },
];

/** The instrument shop: customers and orders, told to whoever has asked. Its API is in docs/gateways.md. */
export class ShopDesk {
  constructor(private readonly at: Telling) {}

  async take(path: string, request: IncomingMessage, response: ServerResponse): Promise<void> {
    if (!hasKey(request, response, this.at.token)) return;
    if (path !== '/subscriptions' || request.method !== 'POST')
      return reply(response, 404, { code: 'not-here', detail: 'There is nothing here.' });
    const body = await readJson(request);
    const made = this.at.subscribers.add('shop', [''], body.events, body.url, body.secret);
    if (!made) return reply(response, 422, { code: 'shape', detail: 'A url and a secret are needed.' });
    reply(response, 201, { id: made.id });
  }

  signUp(person: Omit<ShopCustomer, 'id'>): Promise<Push[]> {
    const customer = { id: `c-${randomUUID().slice(0, 8)}`, ...person };
    this.at.world.state.customers.push(customer);
    return this.tell('customer.created', `${customer.first_name} ${customer.last_name}`, { customer });
  }

  order(customerId: string, wanted: { sku: string; quantity: number }[]): Promise<Push[]> {
    const lines = wanted.map(({ sku, quantity }) => {
      const good = GOODS.find((good) => good.sku === sku)!;
      return { sku, name: good.name, quantity, price: good.price.toFixed(2) };
    });
    const order: ShopOrder = {
      id: `o-${randomUUID().slice(0, 8)}`,
      number: 4100 + this.at.world.state.orders.length,
      status: 'placed',
      currency: 'GBP',
      total: lines.reduce((sum, line) => sum + Number(line.price) * line.quantity, 0).toFixed(2),
      customerId,
      lines,
    };
    this.at.world.state.orders.push(order);
    return this.tellOrder('order.created', order);
  }

  setStatus(orderId: string, status: ShopOrder['status']): Promise<Push[]> {
    const order = this.at.world.state.orders.find((order) => order.id === orderId)!;
    order.status = status;
    return this.tellOrder('order.updated', order);
  }

  private tellOrder(event: string, { customerId, ...order }: ShopOrder): Promise<Push[]> {
    const customer = this.at.world.state.customers.find((customer) => customer.id === customerId)!;
    return this.tell(event, `Order ${order.number}, ${order.status}`, { order, customer });
  }

  private tell(event: string, subject: string, about: object): Promise<Push[]> {
    const id = randomUUID();
    this.at.world.changed();
    return this.at.subscribers.tell(
      {
        service: 'shop',
        topics: [''],
        event,
        eventId: id,
        subject,
        value: { event, id, at: new Date().toISOString(), ...structuredClone(about) },
      },
      this.at.world.state.trouble.shopSendsTwice,
    );
  }
}
