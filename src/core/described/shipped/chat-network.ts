import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';

type CallFile = NonNullable<DescriptionFile['calls']>[string];
type FieldFile = NonNullable<NonNullable<CallFile['body']>['fields']>[number];

const TO: FieldFile[] = [
  { name: 'to', value: '{{ given.to }}' },
  { name: 'from', value: '{{ given.from }}' },
];
const BEHIND: FieldFile[] = [
  { name: 'form.id', value: '{{ given.form }}', ifEmpty: 'leave-out' },
  { name: 'form.token', value: '{{ given.form_token }}', ifEmpty: 'leave-out' },
  { name: 'reference', value: '{{ given.reference }}' },
  { name: 'reportTo', value: '{{ given.report_to }}' },
];
const REPORTED = { reference: { path: '$.data.reference' }, at: { path: '$.data.at', as: 'date' } } as const;
const CAME = {
  id: { path: '$.data.id' },
  from: { path: '$.data.from' },
  to: { path: '$.data.to' },
  at: { path: '$.data.at', as: 'date' },
} as const;
const SENDS: Omit<CallFile, 'body'> = {
  method: 'POST',
  path: '/messages',
  again: 'by-key',
  keyHeader: 'idempotency-key',
  outcomes: [{ path: '$.code', is: ['window-shut'], means: 'final', code: 'window-shut' }],
  reason: ['$.detail', '$.title'],
  reads: { id: { path: '$.id' } },
};

/** docs/gateways.md, "Chat network". */
export const chatNetwork: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Chat network',
  about: 'Chat by the API of docs/gateways.md: free messages within the reply window, approved templates, forms.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    send: {
      ...SENDS,
      body: {
        as: 'json',
        fields: [
          ...TO,
          { name: 'kind', value: 'free' },
          { name: 'text', value: '{{ given.text }}' },
          { name: 'heading', value: '{{ given.heading }}', ifEmpty: 'leave-out' },
          { name: 'closing', value: '{{ given.closing }}', ifEmpty: 'leave-out' },
          { name: 'buttons', value: '{{ given.buttons }}', as: 'whole', ifEmpty: 'leave-out' },
          ...BEHIND,
        ],
      },
    },
    hand_in_template: {
      method: 'POST',
      path: '/templates',
      body: {
        as: 'json',
        fields: [
          { name: 'name', value: '{{ given.name }}' },
          { name: 'kind', value: '{{ given.kind }}' },
          { name: 'heading', value: '{{ given.heading }}' },
          { name: 'text', value: '{{ given.text }}' },
          { name: 'closing', value: '{{ given.closing }}' },
          { name: 'buttons', value: '{{ given.buttons }}', as: 'whole' },
          { name: 'samples', value: '{{ given.samples }}', as: 'whole' },
          { name: 'form', value: '{{ given.has_form }}', as: 'yes-no' },
        ],
      },
      again: 'twice',
      reason: ['$.detail', '$.title'],
      reads: { id: { path: '$.id' } },
    },
    template_state: {
      method: 'GET',
      path: '/templates/{{ given.id }}',
      again: 'harmless',
      reason: ['$.detail', '$.title'],
      reads: { state: { path: '$.state' }, reason: { path: '$.reason' } },
    },
    hand_in_form: {
      method: 'POST',
      path: '/forms',
      body: {
        as: 'json',
        fields: [
          { name: 'name', value: '{{ given.name }}' },
          { name: 'heading', value: '{{ given.heading }}' },
          { name: 'open', value: '{{ given.open }}' },
          { name: 'thanks', value: '{{ given.thanks }}' },
          { name: 'screens', value: '{{ given.screens }}', as: 'whole' },
          { name: 'consent', value: '{{ given.consent }}', as: 'whole' },
        ],
      },
      again: 'twice',
      reason: ['$.detail', '$.title'],
      reads: { id: { path: '$.id' } },
    },
    send_template: {
      ...SENDS,
      body: {
        as: 'json',
        fields: [
          ...TO,
          { name: 'kind', value: 'template' },
          { name: 'template', value: '{{ given.template }}' },
          { name: 'fields', value: '{{ given.fields }}', as: 'whole' },
          ...BEHIND,
        ],
      },
    },
  },
  hears: {
    signed: { way: 'standard-webhooks' },
    kind: '$.type',
    others: 'refuse',
    kinds: [
      { is: ['chat.delivered'], means: 'delivered', reads: REPORTED },
      { is: ['chat.read'], means: 'read', reads: REPORTED },
      {
        is: ['chat.undelivered'],
        means: 'undelivered',
        reads: { ...REPORTED, code: { path: '$.data.code' }, detail: { path: '$.data.detail' } },
      },
      {
        is: ['chat.received'],
        means: 'received',
        reads: {
          ...CAME,
          text: { path: '$.data.text' },
          button: { path: '$.data.button' },
          name: { path: '$.data.name' },
        },
      },
      {
        is: ['chat.form'],
        means: 'form',
        reads: {
          ...CAME,
          form: { path: '$.data.form' },
          token: { path: '$.data.token' },
          answers: { path: '$.data.answers', as: 'whole' },
        },
      },
      {
        is: ['chat.template'],
        means: 'template',
        reads: {
          template: { path: '$.data.template' },
          state: { path: '$.data.state' },
          reason: { path: '$.data.reason' },
          at: { path: '$.data.at', as: 'date' },
        },
      },
    ],
  },
};
