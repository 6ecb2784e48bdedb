import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';

const REPORTED = { reference: { path: '$.data.reference' }, at: { path: '$.data.at', as: 'date' } } as const;

/** docs/gateways.md, "Text carrier". */
export const textCarrier: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Text carrier',
  about: 'Texts by the API of docs/gateways.md: JSON, a bearer key, an idempotency key, signed reports.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    send: {
      method: 'POST',
      path: '/texts',
      body: {
        as: 'json',
        fields: [
          { name: 'to', value: '{{ given.to }}' },
          { name: 'from', value: '{{ given.from }}' },
          { name: 'text', value: '{{ given.text }}' },
          { name: 'reference', value: '{{ given.reference }}' },
          { name: 'reportTo', value: '{{ given.report_to }}' },
        ],
      },
      again: 'by-key',
      keyHeader: 'idempotency-key',
      reason: ['$.detail', '$.title'],
      reads: { id: { path: '$.id' } },
    },
  },
  hears: {
    signed: { way: 'standard-webhooks' },
    kind: '$.type',
    others: 'refuse',
    kinds: [
      { is: ['text.delivered'], means: 'delivered', reads: REPORTED },
      {
        is: ['text.undelivered'],
        means: 'undelivered',
        reads: { ...REPORTED, code: { path: '$.data.code' }, detail: { path: '$.data.detail' } },
      },
      {
        is: ['text.received'],
        means: 'received',
        reads: {
          id: { path: '$.data.id' },
          from: { path: '$.data.from' },
          to: { path: '$.data.to' },
          text: { path: '$.data.text' },
          at: { path: '$.data.at', as: 'date' },
        },
      },
    ],
  },
};
