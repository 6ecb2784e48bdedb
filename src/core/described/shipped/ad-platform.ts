import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';
import { subscribeCall } from './subscribe-call.ts';

type CallFile = NonNullable<DescriptionFile['calls']>[string];
type Reads = NonNullable<CallFile['reads']>;

/** What is read of an entry that begins at `from`. */
const entryAt = (from: string): Reads => ({
  id: { path: `${from}.id` },
  at: { path: `${from}.submittedAt` },
  form: { path: `${from}.form.id` },
  form_name: { path: `${from}.form.name` },
  page: { path: `${from}.page.id` },
  page_name: { path: `${from}.page.name` },
  campaign: { path: `${from}.ad.campaign` },
  ad_set: { path: `${from}.ad.adSet` },
  ad: { path: `${from}.ad.ad` },
  hidden: { path: `${from}.hidden`, as: 'whole' },
  answers: { path: `${from}.answers`, as: 'list', of: { key: '$.key', label: '$.label', value: '$.value' } },
});
const READ: CallFile = { method: 'GET', again: 'harmless', reason: ['$.detail', '$.title'] };
/** docs/gateways.md, "Ad platform". */
export const adPlatform: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Ad platform',
  about: 'Forms under ads, their entries and what ads cost, by the API of docs/gateways.md.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    forms: {
      ...READ,
      path: '/forms',
      items: '$.forms',
      reads: {
        id: { path: '$.id' },
        name: { path: '$.name' },
        page: { path: '$.page.id' },
        page_name: { path: '$.page.name' },
        live: { path: '$.live' },
      },
    },
    subscribe: subscribeCall('/forms/{{ given.form }}/subscriptions'),
    subscribe_page: subscribeCall('/pages/{{ given.page }}/subscriptions'),
    entries: {
      ...READ,
      path: '/forms/{{ given.form }}/entries',
      query: [
        { name: 'limit', value: '{{ given.limit }}' },
        { name: 'after', value: '{{ given.cursor }}', ifEmpty: 'leave-out' },
      ],
      items: '$.entries',
      reads: entryAt('$'),
      besides: {
        held: { path: '$.held.count', as: 'number' },
        first_expires: { path: '$.held.firstExpiresAt', as: 'date' },
      },
      paging: { way: 'cursor', path: '$.cursor' },
    },
    newest: {
      ...READ,
      path: '/forms/{{ given.form }}/entries',
      query: [{ name: 'newest', value: '1' }],
      items: '$.entries',
      reads: entryAt('$'),
      besides: { cursor: { path: '$.cursor' } },
    },
    costs: {
      ...READ,
      path: '/costs',
      query: [
        { name: 'from', value: '{{ given.from }}' },
        { name: 'to', value: '{{ given.to }}' },
        { name: 'after', value: '{{ given.cursor }}', ifEmpty: 'leave-out' },
      ],
      items: '$.costs',
      reads: {
        day: { path: '$.day' },
        campaign: { path: '$.campaign' },
        ad_set: { path: '$.adSet' },
        ad: { path: '$.ad' },
        site: { path: '$.site' },
        cost: { path: '$.cost' },
        currency: { path: '$.currency' },
        impressions: { path: '$.impressions' },
        clicks: { path: '$.clicks' },
      },
      paging: { way: 'cursor', path: '$.next' },
    },
  },
  hears: {
    signed: { way: 'standard-webhooks' },
    kind: '$.type',
    id: '$.entry.id',
    others: 'refuse',
    kinds: [{ is: ['form.entry'], means: 'entry', reads: entryAt('$.entry') }],
  },
};
