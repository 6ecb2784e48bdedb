import type { Definition } from '../core/workflow/definition.ts';

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
  { name: 'Tomas Arden', email: 'tomas@wrenfield.example' },
  { name: 'Piano desk', email: 'piano.desk@wrenfield.example' },
];
export const OONAS_PHONE = '+447700900100';

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
  return {
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
              settings: { message: TEXT_MESSAGE, needsConsent: true, ifRefused: 'carry_on' },
            },
            {
              id: 'email-1',
              kind: 'email',
              on: true,
              note: '',
              settings: { subject: EMAIL_SUBJECT, message: EMAIL_MESSAGE, needsConsent: true, ifRefused: 'carry_on' },
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
  };
}

export const OPEN_DAY_TEXT =
  'Hi {{ lead.first_name }}, lovely to meet you at our open day. Reply LESSON and we will call you to find a first lesson. Wrenfield Music';

export function openDaySheet(sources: string[]): Definition {
  return {
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
              settings: { message: OPEN_DAY_TEXT, needsConsent: true, ifRefused: 'carry_on' },
            },
          ],
          record: [],
          team: [],
        },
      },
    ],
  };
}
