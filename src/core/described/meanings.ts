import type { HEARD_MEANINGS } from './description.ts';
import { type DescribedKind, ENTRY } from './works.ts';

export type Meaning = (typeof HEARD_MEANINGS)[number];

const REPORTED = { reference: 'Our key of the message', id: 'Their name for it', at: 'When' };
const PERSON = { name: 'Name', first_name: 'First name', last_name: 'Last name', email: 'Email', phone: 'Phone' };
const APPOINTMENT = {
  ...{ appointment: 'Its name there', title: 'What it is', start: 'When it begins', end: 'When it ends' },
  ...{ previous_start: 'When it began before', calendar: 'Name of its calendar there', calendar_name: 'Its calendar' },
  ...{ booked_by: '“staff” where their desk booked it', note: 'Note', at: 'When that happened' },
  ...{ name: PERSON.name, email: PERSON.email, phone: PERSON.phone },
};
const LINES = 'What was ordered: a list of name, quantity, price, sku';
const CUSTOMER = {
  ...{ customer: 'Its name for the customer', first_name: PERSON.first_name, last_name: PERSON.last_name },
  ...{ email: PERSON.email, phone: PERSON.phone, agrees: 'Whether they agree to be written to', at: 'When' },
};
const ORDER = {
  ...CUSTOMER,
  ...{ number: 'Number of the order', status: 'How far it is', total: 'In all', currency: 'Currency', lines: LINES },
};
const VISITOR = {
  ...{ page: 'Name of the page there', page_name: 'What the page is called', funnel: 'What the funnel is called' },
  ...{ address: 'Address they came by', referrer: 'Where they came from', person: 'What they filled in, as a whole' },
  at: 'When',
};

/** What an event can mean to us, as it is said after “means”, and what is read of it by name. */
export const MEANINGS: Record<Meaning, { label: string; reads: Record<string, string> }> = {
  delivered: { label: 'a message has arrived', reads: REPORTED },
  undelivered: { label: 'a message has not', reads: { ...REPORTED, detail: 'Why', code: 'A code' } },
  read: { label: 'a message was read', reads: REPORTED },
  received: {
    label: 'somebody has written',
    reads: { id: 'Its name there', from: 'Whose number', to: 'To which of ours', text: 'What they wrote', at: 'When' },
  },
  form: { label: 'a form was filled in', reads: {} },
  template: { label: 'a template was reviewed', reads: {} },
  booked: { label: 'an appointment is booked', reads: APPOINTMENT },
  confirmed: { label: 'an appointment is confirmed', reads: APPOINTMENT },
  moved: { label: 'an appointment is moved', reads: APPOINTMENT },
  cancelled: { label: 'an appointment is cancelled', reads: APPOINTMENT },
  missed: { label: 'nobody came to an appointment', reads: APPOINTMENT },
  customer: { label: 'there is a new customer', reads: CUSTOMER },
  ordered: { label: 'there is a new order', reads: ORDER },
  order_changed: { label: 'an order has changed', reads: ORDER },
  opted_in: { label: 'somebody left their details', reads: VISITOR },
  purchased: {
    label: 'somebody bought',
    reads: { ...VISITOR, order: 'Number of the order', total: 'In all', currency: 'Currency', lines: LINES },
  },
  entry: { label: 'a form was filled in', reads: ENTRY },
  event: { label: 'something for a source', reads: {} },
  nothing: { label: 'nothing to us', reads: {} },
};

const MESSAGES = ['delivered', 'undelivered', 'read', 'received'] as const;
const MEANT: Record<DescribedKind, readonly Meaning[]> = {
  text_carrier: [...MESSAGES, 'event'],
  chat_network: [...MESSAGES, 'form', 'template', 'event'],
  company_directory: [],
  booking_calendar: ['booked', 'confirmed', 'moved', 'cancelled', 'missed'],
  shop: ['customer', 'ordered', 'order_changed'],
  funnel_host: ['opted_in', 'purchased'],
  ad_platform: ['entry'],
  service: [...MESSAGES, 'form', 'template', 'event'],
};

/** What events of a kind of service can mean, in the order they are offered. */
export const meaningsOf = (kind: DescribedKind): readonly Meaning[] => [...MEANT[kind], 'nothing'];
