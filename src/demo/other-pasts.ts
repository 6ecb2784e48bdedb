import type { Field } from '../core/fields/field.ts';
import type { WhereFrom } from '../core/source/where-from.ts';
import type { KnownSource } from '../engine/settings-cache.ts';
import { CALENDARS } from '../practice/booking-calendar.ts';
import { WRENFIELD_FORMS } from '../practice/forms.ts';
import { GOODS } from '../practice/shop.ts';
import type { Campaign } from './campaigns.ts';
import type { Invented } from './people.ts';
import { TRIAL_PAGE } from './world.ts';

const HOUR = 3_600_000;
const DAY = 24 * HOUR;

/** Something that came in at a source: as it was sent, or, where it was fetched, as it was read. */
export interface Told {
  source: KnownSource;
  at: number;
  person: Invented;
  sent: { body: string; contentType: string };
  /** What they ticked in chat, where the consent is asked by its form. */
  ticked?: string;
  /** The campaign that brought them, where an ad did. */
  campaign?: Campaign;
  read?: { externalId: string; fields: Field[]; whereFrom: WhereFrom };
}

const json = (value: unknown) => ({ contentType: 'application/json', body: JSON.stringify(value) });
const full = ({ first, last }: Invented) => `${first} ${last}`;
const iso = (at: number) => new Date(at).toISOString();

type Sent = (person: Invented, at: number, n: number) => Told['sent'];

const optIn: Sent = (person, at, n) =>
  json({
    type: 'funnel.opt-in',
    id: `past-opt-in-${n}`,
    at: iso(at),
    funnel: { id: 'funnel-0001', name: 'Practice planner' },
    step: { id: 'step-0001', name: 'Opt-in page' },
    visit: {
      // One link in a neighbour's paper was printed without marks.
      ...(n % 4 === 3
        ? { address: 'https://pages.wrenfield.example/practice-planner', referrer: 'https://paper.example/music' }
        : {
            address:
              'https://pages.wrenfield.example/practice-planner?utm_source=newsletter&utm_medium=email&utm_campaign=practice-planner',
            referrer: 'https://news.wrenfield.example/october',
          }),
    },
    person: {
      first_name: person.first,
      last_name: person.last,
      email: person.email,
      phone: person.phone,
      consent: 'true',
    },
  });

const order: Sent = (person, at, n) => {
  const goods = GOODS[n % GOODS.length]!;
  const quantity = 1 + (n % 2);
  return json({
    event: 'order.created',
    id: `past-order-${n}`,
    at: iso(at),
    customer: {
      ...{ id: `past-customer-${n}`, first_name: person.first, last_name: person.last, email: person.email },
      ...{ phone: person.phone, accepts_marketing: n % 3 !== 0 },
    },
    order: {
      ...{ id: `past-o-${n}`, number: 1001 + n, status: 'paid', currency: 'GBP' },
      total: (goods.price * quantity).toFixed(2),
      lines: [{ sku: goods.sku, name: goods.name, quantity, price: goods.price.toFixed(2) }],
    },
  });
};

/** Half hours after school in which no other appointment of the demo is; the desk has one pair of hands, so each is given once. */
const SLOTS = [16.5, 17, 17.5, 18, 18.5, 19];

function bookings(): Sent {
  const taken = new Set<number>();
  return (person, at, n) => {
    let start = 0;
    for (let tried = 0; start === 0 || taken.has(start); tried++)
      start =
        at - (at % DAY) + (2 + Math.floor(tried / SLOTS.length)) * DAY + SLOTS[(n + tried) % SLOTS.length]! * HOUR;
    taken.add(start);
    return booking(person, at, n, start);
  };
}

/** What the calendar tells of an appointment. */
export const booking = (
  person: Invented,
  at: number,
  n: number | string,
  start: number,
  event = 'booked',
): Told['sent'] =>
  json({
    type: `appointment.${event}`,
    id: `past-${event}-${n}`,
    at: iso(at),
    appointment: {
      id: `past-appointment-${n}`,
      title: `${person.instrument} trial lesson`,
      ...{ start: iso(start), end: iso(start + HOUR / 2), timeZone: 'Europe/London' },
      bookedBy: Number(n) % 4 === 0 ? 'staff' : 'self',
      calendar: CALENDARS[person.instrument === 'Piano' ? 0 : 1],
      person: { name: full(person), email: person.email, phone: person.phone },
    },
  });

const onOurPage: Sent = (person, _, n) =>
  json({
    id: `past-page-${n}`,
    answers: {
      instrument: person.instrument,
      first_name: person.first,
      last_name: person.last,
      email: person.email,
      phone: person.phone,
    },
    consent: { given: true, wording: TRIAL_PAGE.consent.text, version: 1 },
    visit: { address: 'https://wrenfield.example/trial?utm_source=website&utm_medium=page', referrer: '' },
    from: '192.0.2.14',
    trap: null,
  });

const enquiry: Sent = (person, at) => ({
  contentType: 'message/rfc822',
  body: [
    'From: Wrenfield website <website@wrenfield.example>',
    'To: enquiries@in.wrenfield.example',
    'Subject: New enquiry',
    `Date: ${new Date(at).toUTCString()}`,
    `Message-ID: <past-${person.email}>`,
    'Content-Type: text/plain; charset=utf-8',
    '',
    `Name: ${full(person)}`,
    `Email: ${person.email}`,
    `Phone: ${person.phone}`,
    'Consent: yes',
    '',
    `Could we come by and try the ${person.instrument.toLowerCase()} one afternoon?`,
  ].join('\r\n'),
});

/** An entry of one of the ad platform's forms, by the form's id. */
const ofForm =
  (formId: string): Sent =>
  (person, at, n) => {
    const form = WRENFIELD_FORMS.find(({ id }) => id === formId)!;
    const answers: Record<string, string> = {
      ...{ full_name: full(person), first_name: person.first, last_name: person.last },
      ...{
        email: person.email,
        phone: person.phone,
        mobile: person.phone,
        instrument: person.instrument,
        consent: 'true',
      },
    };
    return json({
      type: 'form.entry',
      entry: {
        id: `past-${formId}-${n}`,
        at: iso(at),
        form: { id: form.id, name: form.name },
        ...{ page: form.page, ad: form.ad, hidden: form.hidden },
        answers: form.questions.flatMap(({ key, label, kind }) =>
          answers[key] === undefined ? [] : [{ key, label: kind === 'tick' ? 'Consent' : label, value: answers[key] }],
        ),
      },
    });
  };

const EPISODES = [
  ['Scales without tears', 'Maud Tressel on ten minutes a day, and which ten.'],
  ['A hall full of strings', 'How the autumn concert is put together, from the first chair to the last bow.'],
];
const NOBODY: Invented = { first: '', last: '', email: '', phone: '', instrument: '' };

/**
 * What came in at the other sources in the same weeks. People who buy, book and opt in are mostly those who asked for a lesson before (`known`, with when that
 * was); the rest are new.
 */
export function otherPasts(
  sourceOf: (name: string) => KnownSource,
  known: readonly Pick<Told, 'person' | 'at' | 'campaign'>[],
  next: () => Invented,
  { now, days, random }: { now: number; days: number; random: () => number },
): Told[] {
  const told: Told[] = [];
  const begin = now - days * DAY;
  const some = () => known[Math.floor(random() * known.length)]!;
  /** Who books: the campaigns that bring people who do, before others. */
  const keen = () => {
    for (let tried = 0; ; tried++) {
      const one = some();
      if (tried > 30 || random() < (one.campaign?.books ?? 0.12) * 2) return one;
    }
  };
  const booked = bookings();
  const add = (name: string, sent: Sent, many: number, share: number) => {
    const source = sourceOf(name);
    for (let n = 0; n < many; n++) {
      const before = random() < share ? (sent === booked ? keen() : some()) : null;
      const earliest = before ? before.at + HOUR : begin;
      const at = Math.floor(earliest + (0.02 + 0.96 * random()) * (now - HOUR - earliest));
      if (at <= earliest) continue;
      const person = before?.person ?? next();
      told.push({ source, at, person, sent: sent(person, at, n) });
    }
  };
  add('Practice planner: Opt-in page', optIn, 34, 0.6);
  add('Instrument shop', order, 23, 0.8);
  add('Bookings', booked, 41, 1);
  add('Book a free trial lesson', onOurPage, 11, 0);
  add('Website enquiries', enquiry, 9, 0);
  add('All forms of Wrenfield Evenings', ofForm('form-evening-choir'), 8, 0);
  add('Summer camp, fetched', ofForm('form-summer-camp'), 9, 0.5);
  const podcast = sourceOf('The Wrenfield Hour');
  for (const [i, [title, summary]] of EPISODES.entries()) {
    const at = now - (EPISODES.length - i) * 6 * DAY;
    const link = `https://podcast.wrenfield.example/past-${i + 1}`;
    const field = (key: string, label: string, value: string) => ({ key, label, value });
    told.push({
      source: podcast,
      at,
      person: NOBODY,
      sent: json({ title, summary, link }),
      read: {
        externalId: `past-episode-${i + 1}`,
        fields: [
          field('title', 'Title', title!),
          field('summary', 'Summary', summary!),
          field('link', 'Link', link),
          field('published', 'Published', iso(at)),
        ],
        whereFrom: {},
      },
    });
  }
  return told;
}
