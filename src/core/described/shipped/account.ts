import type { DescriptionFile } from '../description.ts';

/** What every service of docs/gateways.md is signed in with. */
export const ACCOUNT_ASKS: NonNullable<DescriptionFile['asks']> = [
  { key: 'address', label: 'Address' },
  { key: 'key', label: 'Key of the account', secret: true, needed: false },
];

/** docs/gateways.md, "Trying a key". */
export const ACCOUNT_CALL: NonNullable<DescriptionFile['calls']>[string] = {
  method: 'GET',
  path: '/account',
  again: 'harmless',
  reason: ['$.detail', '$.title'],
  reads: { name: { path: '$.account.name' }, holds: { path: '$.account.holds' } },
};
