import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';
import { subscribeCall } from './subscribe-call.ts';

type CallFile = NonNullable<DescriptionFile['calls']>[string];

const PAGE: NonNullable<CallFile['reads']> = {
  id: { path: '$.id' },
  name: { path: '$.name' },
  group: { path: '$.funnel.name' },
  address: { path: '$.address' },
  live: { path: '$.live' },
};
const VISITOR = {
  at: { path: '$.at' },
  page: { path: '$.step.id' },
  page_name: { path: '$.step.name' },
  funnel: { path: '$.funnel.name' },
  address: { path: '$.visit.address' },
  referrer: { path: '$.visit.referrer' },
  person: { path: '$.person', as: 'whole' },
  order: { path: '$.order.id' },
  total: { path: '$.order.total' },
  currency: { path: '$.order.currency' },
  lines: {
    path: '$.order.lines',
    as: 'list',
    of: { name: '$.product', quantity: '$.quantity', price: '$.price' },
  },
} as const;

/** docs/gateways.md, "Funnel host". */
export const funnelHost: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Funnel host',
  about: 'Opt-ins and orders on pages of funnels by the API of docs/gateways.md: told of each, signed.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    pages: {
      method: 'GET',
      path: '/steps',
      query: [
        { name: 'search', value: '{{ given.search }}' },
        { name: 'after', value: '{{ given.cursor }}', ifEmpty: 'leave-out' },
      ],
      again: 'harmless',
      reason: ['$.detail', '$.title'],
      items: '$.steps',
      reads: PAGE,
      paging: { way: 'cursor', path: '$.next' },
    },
    page: {
      method: 'GET',
      path: '/steps/{{ given.page }}',
      again: 'harmless',
      reason: ['$.detail', '$.title'],
      reads: PAGE,
    },
    subscribe: subscribeCall('/steps/{{ given.page }}/subscriptions', {
      name: 'events',
      value: '{{ given.events }}',
      as: 'whole',
    }),
  },
  hears: {
    signed: { way: 'standard-webhooks' },
    kind: '$.type',
    id: '$.id',
    others: 'refuse',
    kinds: [
      { is: ['funnel.opt-in'], means: 'opted_in', reads: VISITOR },
      { is: ['funnel.purchase'], means: 'purchased', reads: VISITOR },
    ],
  },
};
