import { agreed, Pack, type Starter } from './pack.ts';

const pack = new Pack();
const sheet = pack.sheet('New subscribers', ['First name', 'Last name', 'Email', 'Phone']);
const rows = pack.rowsOf('New subscribers', sheet);
const list = pack.nurtureList('Newsletter');
const label = pack.label('From a sheet');

export const rowsToList: Starter = {
  id: 'rows-to-list',
  name: 'Sheet rows: onto a list',
  about:
    'Rows you type or paste into a sheet go onto your newsletter, tagged with where they came from; only those who agreed.',
  comesBy: 'sheet',
  goesOut: ['list'],
  file: pack.file(
    'Sheet rows: onto a list',
    [rows],
    [{ first: [pack.tidy()], record: [pack.tag(label), pack.putOn(list, {}, agreed('email'))] }],
  ),
};
