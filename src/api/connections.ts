import { CareInput, changeCare } from '../app/account/connection-care.ts';
import { ConnectionInput } from '../app/account/connection-settings.ts';
import {
  addConnection,
  changeConnection,
  listConnections,
  showReportSecret,
  tryConnection,
} from '../app/account/connections.ts';
import { checkDomain, dropSigningKey, makeSigningKey } from '../app/account/sending-domain.ts';
import { beginAccess, endAccess } from '../app/account/service-access.ts';
import { TryCall, tryCall } from '../app/account/service-calls.ts';
import { changeLookUps, LookUpsInput } from '../app/account/table-look-ups.ts';
import { changeTables, TablesInput } from '../app/account/written-tables.ts';
import { removeConnection } from '../app/workflows/removal.ts';
import { doors } from './route.ts';

const { does, reads, takes, writesAlone } = doors('see-setup', 'keys');

export const connectionsRoutes = [
  takes('PUT', '/connections/:connection/look-ups', LookUpsInput, (use, input, { connection }) =>
    changeLookUps(use, connection, input),
  ),
  takes('PUT', '/connections/:connection/tables', TablesInput, (use, input, { connection }) =>
    changeTables(use, connection, input),
  ),
  does('POST', '/connections/:connection/signing', (use, { connection }) => makeSigningKey(use, connection)),
  writesAlone('DELETE', '/connections/:connection/signing', (tx, { connection }) => dropSigningKey(tx, connection)),
  does('POST', '/connections/:connection/signing/check', (use, { connection }) => checkDomain(use, connection)),
  does('POST', '/connections/:connection/access', (use, { connection }) => beginAccess(use, connection)),
  writesAlone('DELETE', '/connections/:connection/access', (tx, { connection }) => endAccess(tx, connection)),
  takes('PUT', '/connections/:connection/care', CareInput, (use, input, { connection }) =>
    changeCare(use, connection, input),
  ),
  takes('POST', '/connections/:connection/call', TryCall, (use, input, { connection }) =>
    tryCall(use, connection, input),
  ),
  takes('PUT', '/connections/:connection', ConnectionInput, (use, input, { connection }) =>
    changeConnection(use, connection, input),
  ),
  writesAlone('DELETE', '/connections/:connection', (tx, { connection }) => removeConnection(tx, connection)),
  writesAlone('POST', '/connections/:connection/report-secret', async (tx, { connection }) => ({
    secret: await showReportSecret(tx, connection),
  })),
  does('POST', '/connections/:connection/try', (use, { connection }) => tryConnection(use, connection)),
  reads('/connections', (use) => listConnections(use)),
  takes('POST', '/connections', ConnectionInput, (use, input) => addConnection(use, input)),
] as const;
