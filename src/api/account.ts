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
import { NameAndFolder, renameOrMove } from '../app/account/folders.ts';
import { mySignIn } from '../app/account/my-sign-in.ts';
import { addPasskey, beginPasskey, NewPasskey, removePasskey } from '../app/account/passkeys.ts';
import { changePassword, NewPassword } from '../app/account/passwords.ts';
import { removePractice, switchOnPractice } from '../app/account/practice-world.ts';
import { Proof, prove } from '../app/account/proof.ts';
import { KeepNotes, keepNotes, listRecord, readRecordAsked, recordTable } from '../app/account/record.ts';
import { listRemoved, PutBack, putBack } from '../app/account/removed.ts';
import {
  beginSecond,
  getSecond,
  renewCodes,
  SecondCode,
  startSecond,
  stopSecond,
} from '../app/account/second-factor.ts';
import { endOtherSessions, endSession, type From, listSessions } from '../app/account/session.ts';
import { download, table } from './download.ts';
import { type Asked, doors } from './route.ts';

const { does, reads, takes, takesFile, writes, writesAlone } = doors('own', 'own');

const fromOf = ({ address, request }: Asked): From => ({ address, userAgent: request.headers.get('user-agent') ?? '' });

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
  writes('PUT', '/named/:named', NameAndFolder, (tx, input, { named }) => renameOrMove(tx, named, input), 'build'),
  reads('/removed', (use) => listRemoved(use), 'see-setup'),
  writes('POST', '/removed/:removed', PutBack, (tx, input, { removed }) => putBack(tx, removed, input), 'build'),
  reads('/record', (use, _, query) => listRecord(use, readRecordAsked(query)), 'see-setup'),
  reads(
    '/record/file',
    async (use, _, query) => table(use, query, await recordTable(use, readRecordAsked(query))),
    'manage',
  ),
  writes('PUT', '/record', KeepNotes, (tx, input) => keepNotes(tx, input), 'people'),
  reads('/my-sign-in', (use) => mySignIn(use)),
  does('POST', '/passkeys/begin', (use, _, __, { request }) => beginPasskey(use, request.headers.get('host'))),
  writes('POST', '/passkeys', NewPasskey, (tx, input) => addPasskey(tx, input)),
  writesAlone('DELETE', '/passkeys/:passkey', (tx, { passkey }) => removePasskey(tx, passkey)),
  writesAlone('DELETE', '/sessions', (tx) => endOtherSessions(tx)),
  reads('/sessions', (use) => listSessions(use)),
  writesAlone('DELETE', '/sessions/:session', (tx, { session }) => endSession(tx, session)),
  takes('POST', '/proof', Proof, (use, input, _, asked) => prove(use, input, fromOf(asked))),
  does('POST', '/second', (use) => beginSecond(use)),
  reads('/second', (use) => getSecond(use)),
  writes('PUT', '/second', SecondCode, (tx, input) => startSecond(tx, input)),
  writesAlone('DELETE', '/second', (tx) => stopSecond(tx)),
  writesAlone('POST', '/second/codes', (tx) => renewCodes(tx)),
  takes('PUT', '/password', NewPassword, (use, input, _, asked) => changePassword(use, input, fromOf(asked))),
  does('POST', '/practice', (use) => switchOnPractice(use), 'manage'),
  writesAlone('DELETE', '/practice', (tx) => removePractice(tx), 'manage'),
] as const;
