/* More than 300 lines: the whole demo business in the order it is built, which is how it is read. */
import { v7 as uuidv7 } from 'uuid';
import { addConnection } from '../app/account/connections.ts';
import { alignPractice, practiceAccounts } from '../app/account/practice-world.ts';
import { actorOf } from '../app/account/session.ts';
import { hashPassword, setUp } from '../app/account/sign-in.ts';
import type { Actor } from '../app/actor.ts';
import { giveBookings } from '../app/calendar/calendar.ts';
import { changeTab, createSheet } from '../app/sheets/sheets.ts';
import { appendRows } from '../app/sheets/tab-files.ts';
import { changeSource } from '../app/sources/change-source.ts';
import { getImport, uploadImport } from '../app/sources/imports.ts';
import { addSource, saveCard } from '../app/sources/sources.ts';
import { uploadFile } from '../app/sources/workbook-files.ts';
import { openUse, type Use } from '../app/use.ts';
import { putLive } from '../app/workflows/live.ts';
import { createWorkflow } from '../app/workflows/workflows.ts';
import type { LeadCard } from '../core/source/lead-card.ts';
import type { Definition } from '../core/workflow/definition.ts';
import { Business, Membership, Person, Session } from '../db/entities/business.ts';
import type { Runtime } from '../runtime.ts';
import type { PracticeDesk } from '../settings.ts';
import { BOOKED_COLUMNS } from './booked-columns.ts';
import {
  BUSINESS,
  bookingSheet,
  CHAT_NUMBER,
  COLLEAGUES,
  campSheet,
  DESK_ROWS,
  DESK_TYPES,
  enquirySheet,
  episodeSheet,
  FAIR_CONTACTS,
  fairSheet,
  OLD_PUPILS,
  OONAS_PHONE,
  openDaySheet,
  plannerSheet,
  shopSheet,
  TRIAL_PAGE,
  trialLessonSheet,
} from './world.ts';

export interface DemoMade {
  actor: Actor;
  trialSource: string;
  openDaySource: string;
  trialWorkflow: string;
  openDayWorkflow: string;
}

const NAMED = { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' };
const card: LeadCard = {
  fields: NAMED,
  consent: { kind: 'field', key: 'consent', wordingKey: 'consent_wording' },
};

export async function buildDemo(runtime: Runtime, practice: PracticeDesk): Promise<DemoMade> {
  const { cookie } = await setUp(runtime, BUSINESS);
  const actor = (await actorOf(runtime, cookie))!;
  const use = openUse(runtime, actor);
  // It was for making the demo, and stands in nobody's list of sign-ins.
  await use.em.nativeDelete(Session, { person: actor.personId });
  const mine = await use.em.findOneOrFail(Membership, { person: actor.personId });
  Object.assign(mine, { testEmail: BUSINESS.email, testPhone: OONAS_PHONE });
  // Where its customers are from.
  const business = await use.em.findOneOrFail(Business, { id: actor.businessId });
  business.textCountries = ['GB', 'GG', 'JE', 'IM', 'IE', 'FR', 'DE', 'AU', 'US', 'CA', 'JP'];
  const passwordHash = await hashPassword(BUSINESS.password);
  for (const { role, ...colleague } of COLLEAGUES) {
    const person = use.em.create(Person, { id: uuidv7(), ...colleague, passwordHash, createdAt: new Date() });
    use.em.create(Membership, {
      id: uuidv7(),
      business: actor.businessId,
      person,
      role,
      testEmail: colleague.email,
    });
  }
  await use.em.flush();

  const accounts = practiceAccounts(practice, {
    ...{ sender: 'Wrenfield', fromName: 'Oona at Wrenfield', fromAddress: 'hello@wrenfield.example' },
    number: CHAT_NUMBER,
  });
  const connected = new Map<string, string>();
  for (const account of accounts)
    connected.set(account.kind, (await addConnection(use, account, { practice: true })).id);
  const ads = accounts.find(({ kind }) => kind === 'ad_platform')!;
  const evenings = await addConnection(
    use,
    { ...ads, name: `${ads.name}, evenings`, secret: `${ads.secret}-adults` },
    { practice: true },
  );
  business.practice = { since: new Date().toISOString(), countries: [] };
  await use.em.flush();
  await alignPractice(runtime);
  const to = (kind: string) => connected.get(kind)!;

  const trial = await addSource(use, {
    kind: 'ad-form',
    connectionId: to('ad_platform'),
    scope: 'form',
    targetId: 'form-trial-lesson',
    how: 'push',
  });
  await use.write((tx) => saveCard(tx, trial.id, card));
  const openDay = await addSource(use, { kind: 'webhook', name: 'Open day sign-in', signed: false });
  await use.write((tx) =>
    saveCard(tx, openDay.id, {
      fields: { full_name: 'name', email: 'email', phone: 'contact_number' },
      consent: { kind: 'field', key: 'agrees_to_texts', wordingKey: null },
    }),
  );
  const colleagues = await use.em.find(Person, { email: COLLEAGUES[1]!.email });
  const trialWorkflow = await use.write((tx) =>
    createWorkflow(tx, {
      name: 'Trial lesson: first reply',
      folder: 'Autumn term',
      draft: trialLessonSheet([trial.id], colleagues[0]!.id),
    }),
  );
  const openDayWorkflow = await use.write((tx) =>
    createWorkflow(tx, {
      name: 'Open day follow-up',
      folder: 'Autumn term',
      draft: openDaySheet([openDay.id]),
    }),
  );
  await use.write((tx) => putLive(tx, trialWorkflow.id));
  await use.write((tx) => putLive(tx, openDayWorkflow.id));
  await buildMore(use, practice, {
    ads: to('ad_platform'),
    evenings: evenings.id,
    funnels: to('funnel_host'),
    shop: to('shop'),
    calendars: to('booking_calendar'),
  });
  return {
    actor,
    trialSource: trial.id,
    openDaySource: openDay.id,
    trialWorkflow: trialWorkflow.id,
    openDayWorkflow: openDayWorkflow.id,
  };
}

/** One live source of every further kind, each under a workflow that can be watched at the practice desk. */
async function buildMore(
  use: Use,
  practice: PracticeDesk,
  to: { ads: string; evenings: string; funnels: string; shop: string; calendars: string },
): Promise<void> {
  const live = async (input: { kind: string } & Record<string, unknown>, read: LeadCard, name?: string) => {
    const made = await addSource(use, input);
    await use.write((tx) => saveCard(tx, made.id, read));
    if (name) await use.write((tx) => changeSource(tx, made.id, { name }));
    return made.id;
  };
  const workflow = async (name: string, folder: string, draft: Definition) => {
    const made = await use.write((tx) => createWorkflow(tx, { name, folder, draft }));
    await use.write((tx) => putLive(tx, made.id));
  };
  const people = await use.em.find(Person, { email: COLLEAGUES.map(({ email }) => email) });
  const tomas = people.find((person) => person.email === COLLEAGUES[0]!.email)!.id;
  const pianoDesk = people.find((person) => person.email === COLLEAGUES[1]!.email)!.id;
  const whole: LeadCard = { ...card, fields: { full_name: 'full_name', email: 'email', phone: 'phone' } };

  const camp = await live(
    {
      kind: 'ad-form',
      connectionId: to.ads,
      scope: 'form',
      targetId: 'form-summer-camp',
      how: 'pull',
      everyMinutes: 5,
    },
    { ...card, fields: { full_name: 'full_name', email: 'email', phone: 'mobile' } },
    'Summer camp, fetched',
  );
  const evenings = await live(
    { kind: 'ad-form', connectionId: to.evenings, scope: 'page', targetId: 'page-adults', how: 'push' },
    whole,
  );
  const page = await live({ kind: 'form-page', title: TRIAL_PAGE.title }, card);
  await use.write((tx) => changeSource(tx, page, { settings: { page: TRIAL_PAGE } }));
  const mailbox = await live(
    { kind: 'mailbox', name: 'Website enquiries', subject: 'enquiry' },
    {
      fields: { full_name: 'mail.name', email: 'mail.email', phone: 'mail.phone' },
      consent: { kind: 'field', key: 'mail.consent', wordingKey: null },
    },
  );
  const planner = await live(
    { kind: 'funnel', connectionId: to.funnels, step: 'step-0001', events: ['opt-in', 'purchase'] },
    card,
  );
  const shop = await live(
    { kind: 'shop', connectionId: to.shop, events: ['order.created'] },
    { fields: NAMED, consent: { kind: 'field', key: 'consent', wordingKey: null } },
    'Instrument shop',
  );
  const bookings = await live(
    { kind: 'booking-calendar', connectionId: to.calendars, calendarIds: [], events: ['booked', 'moved', 'cancelled'] },
    {
      fields: { full_name: 'name', email: 'email', phone: 'phone' },
      consent: {
        kind: 'asked_elsewhere',
        note: 'in the booking form',
        wording: 'You may write to me about lessons and news.',
      },
    },
  );
  await use.write((tx) => giveBookings(tx, bookings, pianoDesk));
  const podcast = await live(
    { kind: 'content-feed', address: `${practice.url}/feed/podcast.rss`, everyMinutes: 1 },
    { fields: {}, consent: { kind: 'not_asked' } },
  );

  const signIn = await use.write((tx) =>
    createSheet(tx, {
      name: 'Front desk sign-in',
      columns: ['Name', 'Email', 'Mobile', 'Instrument', 'Agrees to texts and email'],
    }),
  );
  const [tab] = signIn.tabs;
  const columns = tab!.columns.map(({ id }) => id);
  await use.write((tx) =>
    appendRows(
      tx,
      tab!.id,
      DESK_ROWS.map((row) => Object.fromEntries(row.map((cell, i) => [columns[i]!, cell]))),
      'sign-in-desk.csv',
    ),
  );
  await use.write((tx) =>
    changeTab(tx, tab!.id, {
      columns: tab!.columns.map((column, i) => ({ ...column, ...(DESK_TYPES[i] ? { type: DESK_TYPES[i] } : {}) })),
      shading: [{ column: columns[4]!, test: 'is_empty', value: '', shade: 'warn', row: false }],
      agreed: true,
    }),
  );
  const [nameColumn, emailColumn, mobileColumn, , agreesColumn] = columns as [string, string, string, string, string];
  const frontDesk = await live(
    { kind: 'sheet', tabId: tab!.id, when: 'new', fromRow: null, filter: null, everyMinutes: 0 },
    {
      fields: { full_name: nameColumn, email: emailColumn, phone: mobileColumn },
      consent: { kind: 'field', key: agreesColumn, wordingKey: null },
    },
    'Front desk sheet',
  );
  const fair = await addSource(use, { kind: 'workbook', name: 'Instrument fair contacts' });
  await uploadFile(use, fair.id, 'fair-contacts.csv', Buffer.from(FAIR_CONTACTS, 'utf8'));
  await use.write((tx) => changeSource(tx, fair.id, { settings: { identity: { by: 'column', column: 'email' } } }));
  await use.write((tx) =>
    saveCard(tx, fair.id, {
      fields: { full_name: 'name', email: 'email', phone: 'mobile' },
      consent: {
        kind: 'asked_elsewhere',
        note: 'on the card at our stand',
        wording: 'You may write to me about lessons and news.',
      },
    }),
  );

  // An import that waits for the word: its rows have been looked at, and nothing has been done with them.
  const old = await addSource(use, { kind: 'import', name: 'Old pupils, 2023' });
  await use.write((tx) => uploadImport(tx, old.id, 'old-pupils-2023.csv', Buffer.from(OLD_PUPILS, 'utf8')));
  await use.write((tx) =>
    saveCard(tx, old.id, {
      fields: { full_name: 'pupil', email: 'email', phone: 'phone' },
      consent: {
        kind: 'asked_elsewhere',
        note: 'on the enrolment form',
        wording: 'You may write to me about lessons and news.',
      },
    }),
  );
  use.runtime.importer.loop.start(50);
  for (let i = 0; i < 200 && !(await getImport(use, old.id))?.checked; i++)
    await new Promise((resolve) => setTimeout(resolve, 50));
  await use.runtime.importer.loop.stop();

  await workflow('Enquiry: first reply', 'Autumn term', enquirySheet([page, mailbox, evenings, frontDesk], pianoDesk));
  await workflow('Practice planner: welcome', 'Autumn term', plannerSheet([planner]));
  const booked = await use.write((tx) =>
    createSheet(tx, { name: 'Bookings and their ads', columns: Object.keys(BOOKED_COLUMNS) }),
  );
  await workflow(
    'Booking: see you soon',
    'Autumn term',
    bookingSheet([bookings], pianoDesk, {
      tab: booked.tabs[0]!.id,
      columns: booked.tabs[0]!.columns.map(({ id }) => id),
    }),
  );
  await workflow('Summer camp: thank you', 'Summer', campSheet([camp]));
  await workflow('Fair: nice to meet you', 'Autumn term', fairSheet([fair.id]));
  await workflow('Shop: thank you', 'Shop', shopSheet([shop]));
  await workflow('New episode: tell the team', 'Podcast', episodeSheet([podcast], tomas));
}
