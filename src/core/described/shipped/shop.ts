import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';
import { subscribeCall } from './subscribe-call.ts';

const CUSTOMER = {
  at: { path: '$.at' },
  customer: { path: '$.customer.id' },
  first_name: { path: '$.customer.first_name' },
  last_name: { path: '$.customer.last_name' },
  email: { path: '$.customer.email' },
  phone: { path: '$.customer.phone' },
  agrees: { path: '$.customer.accepts_marketing' },
};
const ORDER = {
  ...CUSTOMER,
  number: { path: '$.order.number' },
  status: { path: '$.order.status' },
  total: { path: '$.order.total' },
  currency: { path: '$.order.currency' },
  lines: {
    path: '$.order.lines',
    as: 'list',
    of: { name: '$.name', quantity: '$.quantity', price: '$.price', sku: '$.sku' },
  },
} as const;

/** docs/gateways.md, "Shop". */
export const shop: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Shop',
  about: 'Customers and orders by the API of docs/gateways.md: told of each, signed over the body.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    subscribe: subscribeCall('/subscriptions', { name: 'events', value: '{{ given.events }}', as: 'whole' }),
  },
  hears: {
    signed: { way: 'hmac', digest: 'sha256', encoding: 'base64', header: 'shop-signature' },
    kind: '$.event',
    id: '$.id',
    others: 'refuse',
    kinds: [
      { is: ['customer.created'], means: 'customer', reads: CUSTOMER },
      { is: ['order.created'], means: 'ordered', reads: ORDER },
      { is: ['order.updated'], means: 'order_changed', reads: ORDER },
    ],
  },
};
