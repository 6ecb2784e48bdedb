import { Pack, type Starter } from './pack.ts';

const pack = new Pack();
const sheet = pack.sheet('People to write to', ['First name', 'Last name', 'Email', 'Phone', 'About']);
const rows = pack.rowsOf('People to write to', sheet);

export const rowEmail: Starter = {
  id: 'row-email',
  name: 'Sheet row: a personal email',
  about: 'Every new row of a sheet gets a personal email, and a tick in the log that it went.',
  comesBy: 'sheet',
  goesOut: ['email'],
  file: pack.file(
    'Sheet row: a personal email',
    [rows],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.email(
            '{{ lead.first_name | default: "Hello" }}, as we said',
            `Hello {{ lead.first_name | default: "there" }},\n\nit was good to talk. You asked about {{ answers["${sheet.of.About}"] | default: "what we do" }}: reply to this email with any question, and it comes straight to us.\n\nKind regards\n{{ business.name }}`,
          ),
        ],
      },
    ],
    { samePerson: 'update_only', endsWhen: ['stop'] },
  ),
};
