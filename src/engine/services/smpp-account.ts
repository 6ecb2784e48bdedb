import { SmppSettings } from '../../core/message/smpp/settings.ts';
import type { ConnectionSettings } from '../../db/entities/connection.ts';
import type { SmppAccount } from '../../gateways/smpp/sessions.ts';

/** A stored connection as what a session is opened with. */
export const smppAccount = (
  connectionId: string,
  settings: ConnectionSettings,
  secret: string | null,
): SmppAccount => ({
  connectionId,
  address: settings.address,
  user: settings.user ?? '',
  password: secret ?? '',
  authority: settings.authority,
  ...SmppSettings.parse(settings.smpp ?? {}),
});
