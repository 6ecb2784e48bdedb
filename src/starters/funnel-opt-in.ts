import { agreed, later, Pack, type Starter } from './pack.ts';

const pack = new Pack();
const funnel = pack.connected('funnel', 'Funnel opt-in');
const list = pack.nurtureList('Newsletter');
const sheet = pack.sheet('Opt-ins', ['First name', 'Last name', 'Email', 'Phone', 'Campaign']);
const { of } = sheet;

export const funnelOptIn: Starter = {
  id: 'funnel-opt-in',
  name: 'Funnel opt-in: sheet, list and what was promised',
  about:
    'Sends what the page promised, writes a row in a sheet, puts them on your newsletter, and follows up after three days.',
  comesBy: 'funnel',
  goesOut: ['email', 'list', 'sheet'],
  file: pack.file(
    'Funnel opt-in',
    [funnel],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.email(
            'Here is what you asked for',
            'Hello {{ lead.first_name | default: "there" }},\n\nhere is what you asked for: https://www.example.com/download\n\nIf you have a question about it, reply to this email: a person reads it.\n\nKind regards\n{{ business.name }}',
            { needsConsent: false },
          ),
        ],
        record: [
          pack.row(
            sheet.tab,
            {
              [of['First name']]: '{{ lead.first_name }}',
              [of['Last name']]: '{{ lead.last_name }}',
              [of.Email]: '{{ lead.email }}',
              [of.Phone]: '{{ lead.phone }}',
              [of.Campaign]: '{{ where.campaign }}',
            },
            of.Email,
          ),
          pack.putOn(list, {}, agreed('email')),
        ],
      },
      {
        at: later(3, 'days'),
        lead: [
          pack.email(
            'Did it help?',
            'Hello {{ lead.first_name | default: "there" }},\n\na few days ago you took our guide. Most people get stuck at the same place: where to begin. If you are one of them, reply with one sentence about what you have in mind, and we will tell you what we would do first.\n\nKind regards\n{{ business.name }}\n\nNo more of these: {{ lead.leave_link }}',
            { purpose: 'marketing' },
          ),
        ],
      },
    ],
    { endsWhen: ['stop', 'bought'] },
  ),
};
