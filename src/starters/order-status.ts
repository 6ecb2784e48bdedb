import { Pack, type Starter } from './pack.ts';

const pack = new Pack();
const shop = pack.connected('shop', 'Shop orders', {
  fields: { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' },
  consent: { kind: 'field', key: 'consent', wordingKey: null },
});

export const orderStatus: Starter = {
  id: 'order-status',
  name: 'Shop order: how it stands, by text',
  about: 'Texts a customer when their order comes in, when it is sent and when it can be collected.',
  comesBy: 'shop',
  goesOut: ['text'],
  file: pack.file(
    'Shop order: how it stands',
    [shop],
    [
      {
        first: [pack.tidy()],
        cases: [
          {
            name: 'New order',
            when: { field: 'answers.event', test: 'is', value: 'order created' },
            lead: [
              pack.text(
                'Hi {{ lead.first_name | default: "there" }}, thanks for your order {{ answers["order.number"] }}. We text you when it is on its way. {{ business.name }}',
              ),
            ],
          },
          {
            name: 'Sent',
            when: { field: 'answers["order.status"]', test: 'one_of', value: 'sent\nshipped\ndispatched' },
            lead: [
              pack.text(
                'Good news, {{ lead.first_name | default: "your order is moving" }}: order {{ answers["order.number"] }} is on its way. {{ business.name }}',
              ),
            ],
          },
          {
            name: 'To be collected',
            when: { field: 'answers["order.status"]', test: 'contains', value: 'ready' },
            lead: [
              pack.text(
                'Order {{ answers["order.number"] }} is ready for you to collect. Bring this text along. {{ business.name }}',
              ),
            ],
          },
        ],
      },
    ],
    { samePerson: 'run_again' },
  ),
};
