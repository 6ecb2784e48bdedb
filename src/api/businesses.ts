import { beginBusiness, listMyBusinesses, NewBusiness } from '../app/account/businesses.ts';
import { BusinessBack, putBusinessBack, Removal, removeBusiness } from '../app/account/removing-business.ts';
import { mayTakeOut, wholeBusiness } from '../app/account/whole-business.ts';
import { download } from './download.ts';
import { doors } from './route.ts';

const { does, reads, writes } = doors('own', 'own');

/** What somebody asks as a person, whichever business they are in. */
export const businessesRoutes = [
  reads('/businesses', (use) => listMyBusinesses(use)),
  writes('POST', '/businesses', NewBusiness, (tx, input) => beginBusiness(tx, input)),
  writes('POST', '/businesses/back', BusinessBack, (tx, input) => putBusinessBack(tx, input)),
  // The one they are in, as a whole.
  reads(
    '/business/file',
    async (use) => {
      const { name, bytes } = await wholeBusiness(use);
      return download(name, 'application/zip', bytes);
    },
    'keys',
  ),
  does('POST', '/business/file', async (use) => mayTakeOut(use), 'keys'),
  writes('DELETE', '/business', Removal, (tx, input) => removeBusiness(tx, input), 'keys'),
] as const;
