import { Definition } from '../core/workflow/definition.ts';
import { BOOKED_COLUMNS } from './booked-columns.ts';

/** The demo business: Wrenfield Music School, invented from end to end. */
export const DEMO_SIGN_IN = { email: 'oona@wrenfield.example', password: 'ring-the-bell' };

export const BUSINESS = {
  businessName: 'Wrenfield Music School',
  country: 'GB',
  timeZone: 'Europe/London',
  name: 'Oona Pell',
  ...DEMO_SIGN_IN,
};

/** Colleagues; the numbers are from the range set aside for fiction. */
export const COLLEAGUES = [
  { name: 'Tomas Arden', email: 'tomas@wrenfield.example', role: 'coordinator' },
  { name: 'Piano desk', email: 'piano.desk@wrenfield.example', role: 'desk' },
] as const;
export const OONAS_PHONE = '+447700900100';
/** The school's own number in chat. */
export const CHAT_NUMBER = '+447700900150';

export const TEXT_MESSAGE =
  'Hi {{ lead.first_name }}, thanks for asking about {{ answers.instrument | downcase }} lessons. Reply 1 for a call today or 2 to choose a time. Oona, Wrenfield Music';
export const EMAIL_SUBJECT = 'Your trial lesson: pick a time that suits you';
export const EMAIL_MESSAGE = `Dear {{ lead.first_name }},

thank you for asking about {{ answers.instrument | downcase }} lessons at Wrenfield. Your first half hour is free.

Just reply to this email with two or three times that suit you, and we will keep one of them for you.

Warm wishes
Oona Pell
Wrenfield Music School`;

export function trialLessonSheet(sources: string[], pianoDesk: string): Definition {
  return Definition.parse({
    sources,
    rules: { samePerson: 'update_only' },
    moments: [
      {
        id: 'arrival',
        at: { kind: 'on_arrival' },
        first: [
          { id: 'tidy-1', kind: 'tidy', on: true, note: '', settings: { names: true, email: true, phone: true } },
        ],
        lanes: {
          lead: [
            {
              id: 'text-1',
              kind: 'text',
              on: true,
              note: '',
              settings: { message: TEXT_MESSAGE, needsConsent: true },
            },
            {
              id: 'email-1',
              kind: 'email',
              on: true,
              note: '',
              settings: { subject: EMAIL_SUBJECT, message: EMAIL_MESSAGE, needsConsent: true },
            },
          ],
          record: [],
          team: [
            {
              id: 'tell-1',
              kind: 'tell',
              on: true,
              note: '',
              settings: {
                colleague: pianoDesk,
                subject: 'New trial lesson: {{ lead.full_name }}, {{ answers.instrument }}',
                message:
                  '{{ lead.full_name }} asks for a trial lesson.\n\nInstrument: {{ answers.instrument }}\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\nFrom: {{ where.campaign }}, {{ where.ad }}\n',
              },
            },
          ],
        },
      },
    ],
  });
}

type Settings = Record<string, unknown>;
const step = (id: string, kind: string, settings: Settings) => ({ id, kind, on: true, note: '', settings });
const TIDY = step('tidy-1', 'tidy', { names: true, email: true, phone: true });

/** A sheet with one moment: tidy, a text or an email to the lead, a word to the team. */
function oneMoment(
  sources: string[],
  parts: {
    text?: { message: string; needsConsent: boolean };
    email?: { subject: string; message: string; needsConsent: boolean };
    tell?: { colleague: string; subject: string; message: string };
    row?: Settings;
    samePerson?: 'update_only' | 'run_again';
    tidy?: boolean;
  },
): Definition {
  const { text, email, tell, row, samePerson = 'update_only', tidy = true } = parts;
  return Definition.parse({
    sources,
    rules: { samePerson },
    moments: [
      {
        id: 'arrival',
        at: { kind: 'on_arrival' },
        first: tidy ? [TIDY] : [],
        lanes: {
          lead: [
            ...(text ? [step('text-1', 'text', { ...text })] : []),
            ...(email ? [step('email-1', 'email', { ...email })] : []),
          ],
          record: row ? [step('row-1', 'sheet-row', row)] : [],
          team: tell ? [step('tell-1', 'tell', tell)] : [],
        },
      },
    ],
  });
}

export const OPEN_DAY_TEXT =
  'Hi {{ lead.first_name }}, lovely to meet you at our open day. Reply LESSON and we will call you to find a first lesson. Wrenfield Music';

export const openDaySheet = (sources: string[]) =>
  oneMoment(sources, { text: { message: OPEN_DAY_TEXT, needsConsent: true } });

export const enquirySheet = (sources: string[], desk: string) =>
  oneMoment(sources, {
    text: {
      message:
        'Hi {{ lead.first_name }}, thanks for writing to Wrenfield. Oona reads it this minute and calls you back today.',
      needsConsent: true,
    },
    tell: {
      colleague: desk,
      subject: 'Enquiry: {{ lead.full_name }} by {{ source.name }}',
      message: '{{ lead.full_name }} has asked.\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
    },
  });

export const plannerSheet = (sources: string[]) =>
  oneMoment(sources, {
    samePerson: 'run_again',
    email: {
      subject: 'Your practice planner, {{ lead.first_name }}',
      message:
        'Dear {{ lead.first_name }},\n\nhere is your planner: https://pages.wrenfield.example/planner.pdf\n\nPrint it, put it on the stand, and tick off ten minutes a day.\n\nOona Pell\nWrenfield Music School',
      needsConsent: false,
    },
  });

export const shopSheet = (sources: string[]) =>
  oneMoment(sources, {
    samePerson: 'run_again',
    text: {
      message:
        'Hi {{ lead.first_name }}, thanks from the Wrenfield shop: {{ answers["order.lines"] }}. We pack it today.',
      needsConsent: true,
    },
  });

export const bookingSheet = (sources: string[], desk: string, table: { tab: string; columns: readonly string[] }) =>
  oneMoment(sources, {
    row: {
      tab: table.tab,
      cells: Object.fromEntries(Object.values(BOOKED_COLUMNS).map((cell, i) => [table.columns[i]!, cell])),
      key: '',
      whenThere: 'skip',
      each: '',
    },
    samePerson: 'run_again',
    text: {
      message:
        'Hi {{ lead.first_name }}, your {{ answers["appointment.title"] | downcase }} in the {{ answers["appointment.calendar"] | downcase }} is booked. We look forward to it. Wrenfield Music',
      needsConsent: false,
    },
    tell: {
      colleague: desk,
      subject: 'Booked: {{ lead.full_name }}, {{ answers["appointment.calendar"] }}',
      message:
        '{{ answers["appointment.title"] }} at {{ answers["appointment.start"] }}\nBooked by {{ answers["appointment.booked_by"] }}\n',
    },
  });

export const fairSheet = (sources: string[]) =>
  oneMoment(sources, {
    email: {
      subject: 'Nice to meet you at the instrument fair',
      message:
        'Dear {{ lead.first_name }},\n\nthank you for stopping at our stand. If you would like to try the {{ answers.tried | downcase }} again, come by on any weekday afternoon.\n\nOona Pell\nWrenfield Music School',
      needsConsent: true,
    },
  });

/** What the front desk has typed so far. */
/** What the columns of that sheet hold. */
export const DESK_TYPES = ['text', 'email', 'phone', 'text', 'text'] as const;

export const DESK_ROWS = [
  ['Marlow Finch', 'marlow.finch@example.org', '07700 900611', 'Guitar', 'yes'],
  ['Wanda Thorne', 'wanda.thorne@example.org', '07700 900612', 'Piano', 'yes'],
  ['Yusuf Pike', 'yusuf.pike@example.net', '', 'Drums', 'no'],
  ['Delphine Ash', '', '07700 900614', 'Violin', 'yes'],
];

/** The file the fair hands over each evening. */
export const FAIR_CONTACTS = `Contacts at stand 14,,,
Name,Email,Mobile,Tried
Gideon Marsh,gideon.marsh@example.com,07700 900621,Cello
Fenella Stone,fenella.stone@example.com,07700 900622,Flute
Caspian Rowe,caspian.rowe@example.net,07700 900623,Harp
`;

export const campSheet = (sources: string[]) =>
  oneMoment(sources, {
    email: {
      subject: 'Summer camp at Wrenfield',
      message:
        'Dear {{ lead.first_name }},\n\nthank you for asking about the summer camp. The dates come out in January and you will have them first.\n\nOona Pell\nWrenfield Music School',
      needsConsent: true,
    },
  });

export const episodeSheet = (sources: string[], colleague: string) =>
  oneMoment(sources, {
    samePerson: 'run_again',
    tidy: false,
    tell: {
      colleague,
      subject: 'New episode: {{ answers.title }}',
      message: '{{ answers.title }}\n{{ answers.summary }}\n{{ answers.link }}\n\nTime to write about it.\n',
    },
  });

/** The form page of the demo: two screens. */
export const TRIAL_PAGE = {
  title: 'Book a free trial lesson',
  intro: 'Half an hour with one of our teachers, on an instrument we lend you.',
  screens: [
    {
      title: 'What would you like to learn?',
      fields: [
        {
          key: 'instrument',
          label: 'Instrument',
          kind: 'choice',
          required: true,
          help: '',
          choices: ['Piano', 'Violin', 'Guitar', 'Cello', 'Flute', 'Singing', 'Drums'],
        },
        { key: 'wish', label: 'Anything we should know?', kind: 'long', required: false, help: '', choices: [] },
      ],
    },
    {
      title: 'How do we reach you?',
      fields: [
        { key: 'first_name', label: 'First name', kind: 'short', required: true, help: '', choices: [] },
        { key: 'last_name', label: 'Last name', kind: 'short', required: false, help: '', choices: [] },
        { key: 'email', label: 'Email', kind: 'email', required: true, help: '', choices: [] },
        {
          key: 'phone',
          label: 'Phone',
          kind: 'phone',
          required: true,
          help: 'We text you to find a time.',
          choices: [],
        },
      ],
    },
  ],
  button: 'Ask for my lesson',
  consent: {
    asked: true,
    required: false,
    text: 'Wrenfield may text and email me about lessons. I can stop this at any time.',
    wordings: [],
  },
  thanks: { title: 'Thank you', text: 'We have it. Look at your phone: Oona writes within a minute.' },
};

/** Pupils of some years ago, with the faults such lists have. */
export const OLD_PUPILS = `Pupil;Email;Phone;Instrument;Left
Emrys Hollow;emrys.hollow@example.org;07700 900631;Piano;2023-07-14
Linnea Crane;linnea.crane@example.org;;Violin;2023-07-14
Idris Fell;idris.fell@example.com;07700 900633;Guitar;2023-10-20
Hesper Dale;hesper.dale@example;;Flute;2023-10-20
Juno Whitlock;juno.whitlock@example.net;07700 900635;Singing;2023-12-15
Kester Bray;;07700 900636;Drums;2023-12-15
Linnea Crane;LINNEA.CRANE@example.org;;Violin, second copy;2023-07-14
Beatrix Moor;;;Harp;2023-12-15
Tariq Vane;tariq.vane@example.com;07700 900638;Cello;2023-12-15
`;
