import { later, no, Pack, reply, type Starter, yes } from './pack.ts';

const pack = new Pack();
const sheet = pack.sheet('Quiet for a while', ['First name', 'Last name', 'Email', 'Phone', 'Last bought']);
const rows = pack.rowsOf('Quiet for a while', sheet);
const label = pack.label('Back again');
const desk = pack.somebody('Whoever talks to them');
const NEWS = { purpose: 'marketing' };

export const winBack: Starter = {
  id: 'win-back',
  name: 'Win back the quiet ones',
  about:
    'Two friendly emails to people who have not been heard of for long; whoever replies is handed to a colleague, and nobody is asked a third time.',
  comesBy: 'sheet',
  goesOut: ['email', 'team'],
  file: pack.file(
    'Win back the quiet ones',
    [rows],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.email(
            'It has been a while, {{ lead.first_name | default: "and we noticed" }}',
            'Hello {{ lead.first_name | default: "there" }},\n\nwe have not seen you for a while. A few things are new, and one of them may be for you. Would you like to know more? Just reply “yes”.\n\nKind regards\n{{ business.name }}\n\nNo more of these: {{ lead.leave_link }}',
            NEWS,
          ),
        ],
      },
      {
        at: reply(6, 'days'),
        cases: [
          {
            name: 'They are back',
            when: yes,
            record: [pack.tag(label)],
            team: [
              pack.tell(
                desk,
                '{{ lead.full_name }} is back',
                '{{ lead.full_name }} wrote: {{ happened.text }}\n\nPhone: {{ lead.phone }}\nEmail: {{ lead.email }}\n',
              ),
            ],
          },
        ],
      },
      {
        at: later(1, 'days'),
        onlyIf: no,
        lead: [
          pack.email(
            'One last line from us',
            'Hello {{ lead.first_name | default: "there" }},\n\nthis is the last time we write about it. If you would like to stay in touch, reply with one word. If not, we wish you well.\n\nKind regards\n{{ business.name }}\n\nNo more of these: {{ lead.leave_link }}',
            NEWS,
          ),
        ],
      },
    ],
    { samePerson: 'update_only', endsWhen: ['reply', 'stop', 'bought'] },
  ),
};
