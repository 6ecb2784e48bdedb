import {
  archiveFile,
  changeKeeping,
  getArchive,
  KeepingInput,
  MOST_ARCHIVE_BYTES,
  readArchive,
} from '../app/account/archive.ts';
import { removePractice, switchOnPractice } from '../app/account/practice-world.ts';
import { download } from './download.ts';
import { does, reads, takesFile, writes, writesAlone } from './route.ts';

export const accountRoutes = [
  // One month as a file, or which there are.
  reads('/archive', async (use, _, query) => {
    const month = query.get('month');
    if (month === null) return getArchive(use);
    const { name, bytes } = await archiveFile(use, month);
    return download(name, 'application/gzip', bytes);
  }),
  writes('PUT', '/archive', KeepingInput, (tx, input) => changeKeeping(tx, input), 'owner'),
  takesFile('/archive', MOST_ARCHIVE_BYTES, (use, file) => readArchive(use, file), 'owner'),
  does('POST', '/practice', (use) => switchOnPractice(use)),
  writesAlone('DELETE', '/practice', (tx) => removePractice(tx)),
] as const;
