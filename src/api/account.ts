import {
  archiveFile,
  changeKeeping,
  getArchive,
  KeepingInput,
  MOST_ARCHIVE_BYTES,
  readArchive,
} from '../app/account/archive.ts';
import {
  addDevice,
  addPracticeDevice,
  ChangeDevice,
  changeDevice,
  listDevices,
  NewDevice,
  removeDevice,
  tryDevice,
} from '../app/account/devices.ts';
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
  reads('/devices', (use) => listDevices(use)),
  writes('POST', '/devices', NewDevice, (tx, input) => addDevice(tx, input)),
  does('POST', '/devices/practice', (use) => addPracticeDevice(use)),
  writes('PUT', '/devices/:device', ChangeDevice, (tx, input, { device }) => changeDevice(tx, device, input)),
  writesAlone('DELETE', '/devices/:device', (tx, { device }) => removeDevice(tx, device)),
  does('POST', '/devices/:device/try', (use, { device }) => tryDevice(use, device)),
  does('POST', '/practice', (use) => switchOnPractice(use)),
  writesAlone('DELETE', '/practice', (tx) => removePractice(tx)),
] as const;
