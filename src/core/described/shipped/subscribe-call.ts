import type { DescriptionFile } from '../description.ts';

type CallFile = NonNullable<DescriptionFile['calls']>[string];
type FieldFile = NonNullable<NonNullable<CallFile['body']>['fields']>[number];

/** How a service of docs/gateways.md is asked to tell an address of ours, signed with a secret. */
export const subscribeCall = (path: string, ...more: FieldFile[]): CallFile => ({
  method: 'POST',
  path,
  body: {
    as: 'json',
    fields: [{ name: 'url', value: '{{ given.url }}' }, { name: 'secret', value: '{{ given.secret }}' }, ...more],
  },
  // One for each address: asking again takes the place of what was asked before.
  again: 'harmless',
  reason: ['$.detail', '$.title'],
  reads: { id: { path: '$.id' } },
});
