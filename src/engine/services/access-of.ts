import { fill } from '../../core/described/fill.ts';
import { isDescribed } from '../../core/described/works.ts';
import { describedAccount } from '../../db/described-account.ts';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import { tokenAskOf } from '../../gateways/described/described-caller.ts';
import type { TokenAsk } from '../../gateways/described/token-service.ts';

/** What a connection asks for tokens with, and the page where somebody allows it. */
export interface AccessOf {
  ask: TokenAsk;
  authorizeAddress: string;
  more: string;
}

/** How access to a connection is allowed, its secret opened; null where it is signed in to in another way. */
export function accessOf(stored: {
  id: string;
  kind: ConnectionKind;
  name: string;
  settings: ConnectionSettings;
  secret: string | null;
}): AccessOf | null {
  const { kind, settings, secret } = stored;
  if (settings.access) {
    const { authorizeAddress, more, ...ask } = settings.access;
    return { ask: { ...ask, clientSecret: secret ?? '', authority: settings.authority }, authorizeAddress, more };
  }
  const account = isDescribed(kind) ? describedAccount({ ...stored, kind }) : null;
  const signIn = account?.description.signIn;
  if (!account || signIn?.way !== 'oauth2-code') return null;
  const filling = { given: {}, account: account.values };
  const page = fill(signIn.authorizeAddress, filling);
  return {
    ask: tokenAskOf(account, filling)!,
    authorizeAddress: page.ok ? page.text.trim() : '',
    more: signIn.more,
  };
}
