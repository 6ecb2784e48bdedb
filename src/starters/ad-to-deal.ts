import { agreed, Pack, type Starter } from './pack.ts';

const pack = new Pack();
const form = pack.connected('ad-form', 'Ad form');
const list = pack.nurtureList('Newsletter');
const stages = pack.stages('Sales', ['New enquiry', 'In talks', 'Offer made', 'Won', 'Lost']);
const seller = pack.somebody('Whoever sells');

export const adToDeal: Starter = {
  id: 'ad-to-deal',
  name: 'Ad lead: a deal, a list, a quarter of an hour',
  about:
    'Opens a deal for every ad lead, puts them on your newsletter if they agreed, and keeps fifteen minutes in a colleague’s calendar to call.',
  comesBy: 'ad form',
  goesOut: ['deal', 'list', 'calendar', 'text'],
  file: pack.file(
    'Ad lead to deal',
    [form],
    [
      {
        first: [pack.tidy()],
        lead: [
          pack.text(
            'Hi {{ lead.first_name | default: "there" }}, thanks for asking. We have kept a quarter of an hour for you and will ring you then. {{ business.name }}',
          ),
        ],
        record: [pack.deal(stages['New enquiry'], '{{ lead.full_name }}'), pack.putOn(list, {}, agreed('email'))],
        team: [
          pack.any('hold-time', {
            ...{
              colleague: seller,
              title: 'Call {{ lead.full_name }}, {{ lead.phone }}',
              time: '09:00',
              day: 'next_day',
            },
            ...{ workingDays: true, minutes: 15 },
          }),
        ],
      },
    ],
    { samePerson: 'update_only', endsWhen: ['stop'] },
  ),
};
