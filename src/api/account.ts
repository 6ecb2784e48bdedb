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
import { changePassword, NewPassword } from '../app/account/passwords.ts';
import { removePractice, switchOnPractice } from '../app/account/practice-world.ts';
import { endOtherSessions, endSession, listSessions } from '../app/account/session.ts';
import { download } from './download.ts';
import { doors } from './route.ts';

const { does, reads, takes, takesFile, writes, writesAlone } = doors('own', 'own');

export const accountRoutes = [
  // One month as a file, or which there are.
  reads(
    '/archive',
    async (use, _, query) => {
      const month = query.get('month');
      if (month === null) return getArchive(use);
      const { name, bytes } = await archiveFile(use, month);
      return download(name, 'application/gzip', bytes);
    },
    'see-setup',
  ),
  writes('PUT', '/archive', KeepingInput, (tx, input) => changeKeeping(tx, input), 'manage'),
  takesFile('/archive', MOST_ARCHIVE_BYTES, (use, file) => readArchive(use, file), 'manage'),
  reads('/devices', (use) => listDevices(use)),
  writes('POST', '/devices', NewDevice, (tx, input) => addDevice(tx, input)),
  does('POST', '/devices/practice', (use) => addPracticeDevice(use)),
  writes('PUT', '/devices/:device', ChangeDevice, (tx, input, { device }) => changeDevice(tx, device, input)),
  writesAlone('DELETE', '/devices/:device', (tx, { device }) => removeDevice(tx, device)),
  does('POST', '/devices/:device/try', (use, { device }) => tryDevice(use, device)),
  does('DELETE', '/sessions', (use, _, __, { cookie }) => use.write((tx) => endOtherSessions(tx, cookie))),
  reads('/sessions', (use, _, __, { cookie }) => listSessions(use, cookie)),
  writesAlone('DELETE', '/sessions/:session', (tx, { session }) => endSession(tx, session)),
  takes('PUT', '/password', NewPassword, (use, input, _, { cookie, address, request }) =>
    changePassword(use, input, {
      cookie,
      from: { address, userAgent: request.headers.get('user-agent') ?? '' },
    }),
  ),
  does('POST', '/practice', (use) => switchOnPractice(use), 'manage'),
  writesAlone('DELETE', '/practice', (tx) => removePractice(tx), 'manage'),
] as const;
