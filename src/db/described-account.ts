import type { Description } from '../core/described/description.ts';
import { shippedFor } from '../core/described/shipped/registry.ts';
import { WHO } from '../core/described/who.ts';
import type { DescribedKind } from '../core/described/works.ts';
import type { ConnectionSettings } from './entities/connection.ts';

/** What is stored of a connection, its secret opened. */
export interface StoredConnection {
  id: string;
  kind: DescribedKind;
  name: string;
  settings: ConnectionSettings;
  /** The key; for a description of the business's own, everything secret as JSON, by name. */
  secret: string | null;
}

/** How a connection's service is called. The same shape as the gateway's `DescribedAccount`. */
export interface AccountOfService {
  connectionId: string;
  who: string;
  description: Description;
  values: Record<string, string>;
  /** PEM; an authority of the business's own that is believed besides. */
  authority: string | undefined;
}

/** A stored connection as what is needed to call it; null for one that says nothing of how its service is called. */
export function describedAccount({ id, kind, name, settings, secret }: StoredConnection): AccountOfService | null {
  const description = settings.description ?? shippedFor(kind);
  if (!description) return null;
  const values = settings.description
    ? { ...settings.values, ...secretValues(secret) }
    : { address: settings.address, key: secret ?? '' };
  return {
    connectionId: id,
    who: kind === 'service' ? name : WHO[kind],
    description,
    values,
    authority: settings.authority,
  };
}

/** Everything secret that was filled in, by name. */
export function secretValues(secret: string | null): Record<string, string> {
  if (secret === null) return {};
  try {
    return JSON.parse(secret) as Record<string, string>;
  } catch {
    return {};
  }
}
