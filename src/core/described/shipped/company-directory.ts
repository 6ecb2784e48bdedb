import { DESCRIPTION_FORMAT, DESCRIPTION_VERSION, type DescriptionFile } from '../description.ts';
import { ACCOUNT_ASKS, ACCOUNT_CALL } from './account.ts';

/** docs/gateways.md, "Company directory". */
export const companyDirectory: DescriptionFile = {
  format: DESCRIPTION_FORMAT,
  version: DESCRIPTION_VERSION,
  name: 'Company directory',
  about: 'Companies by the domain of an email address, by the API of docs/gateways.md.',
  asks: ACCOUNT_ASKS,
  address: '{{ account.address }}',
  signIn: { way: 'bearer', token: '{{ account.key }}' },
  calls: {
    account: ACCOUNT_CALL,
    company: {
      method: 'GET',
      path: '/companies',
      query: [{ name: 'domain', value: '{{ given.domain }}' }],
      again: 'harmless',
      // A directory that is busy or knows the key no more may do so later: the look-up waits.
      outcomes: [{ status: '400-499', means: 'again' }],
      reason: ['$.detail', '$.title'],
      reads: {
        name: { path: '$.company.name' },
        sector: { path: '$.company.sector' },
        town: { path: '$.company.town' },
        country: { path: '$.company.country' },
        employees: { path: '$.company.employees' },
      },
    },
  },
};
