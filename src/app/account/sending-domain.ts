import { generateKeyPair } from 'node:crypto';
import { promisify } from 'node:util';
import {
  type DomainFinding,
  dkimName,
  dkimRecord,
  domainFindings,
  type SigningKey,
} from '../../core/mail/sending-domain.ts';
import { Connection, type IConnection } from '../../db/entities/connection.ts';
import { publishedRecords } from '../../gateways/domain-records.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';

/** RFC 8301 §3.2: signers use at least 2048 bits. */
const BITS = 2048;
const makePair = promisify(generateKeyPair);

/** The key mails of a server are signed with, and what is to be published for it. */
export interface SigningView {
  domain: string;
  name: string;
  record: string;
}

async function mailServer(use: Use, id: string): Promise<IConnection> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId, kind: 'mail_server' });
  if (!found) throw notHere('connection');
  return found;
}

const view = (key: SigningKey): SigningView => ({ domain: key.domain, name: dkimName(key), record: dkimRecord(key) });

/** The domain mails of a server are from; null for another kind of service. `signing` is null while nothing is signed. */
export async function getSigning(
  use: Use,
  id: string,
): Promise<{ domain: string; signing: SigningView | null } | null> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (found?.kind !== 'mail_server') return null;
  const { fromAddress = '', signing } = found.settings;
  return { domain: domainOf(fromAddress), signing: signing ? view(signing) : null };
}

const domainOf = (address: string) => address.split('@').at(-1)?.toLowerCase() ?? '';

/** Makes a key for the domain mails are from; from then on they are signed. One that is there is put aside: its record can go. */
export async function makeSigningKey(use: Use, id: string): Promise<SigningView> {
  demand(use.actor, 'keys');
  const domain = domainOf((await mailServer(use, id)).settings.fromAddress ?? '');
  if (domain === '') throw new Refusal(409, 'no-domain', 'Say first which address emails come from.');
  const pair = await makePair('rsa', {
    modulusLength: BITS,
    publicKeyEncoding: { type: 'spki', format: 'der' },
    privateKeyEncoding: { type: 'pkcs8', format: 'pem' },
  });
  return use.write(async (tx) => {
    await tx.db.query('select from connection where id = $1 for update', [id]);
    const connection = await mailServer(tx, id);
    const now = new Date();
    // A name of its own for each key, so that mail on its way is checked by the one it was signed with.
    const key: SigningKey = {
      domain,
      selector: `pinebell${now.toISOString().slice(0, 10).replaceAll('-', '')}${String(now.getTime()).slice(-4)}`,
      publicKey: pair.publicKey.toString('base64'),
    };
    connection.settings = {
      ...connection.settings,
      signing: { ...key, sealed: tx.runtime.secrets.seal(pair.privateKey) },
    };
    tx.note('connection.signing', id, { domain });
    tx.forget();
    return view(key);
  });
}

/** Nothing is signed from now on. */
export async function dropSigningKey(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'keys');
  await tx.db.query('select from connection where id = $1 for update', [id]);
  const connection = await mailServer(tx, id);
  const { signing: _, ...settings } = connection.settings;
  connection.settings = settings;
  tx.note('connection.no_signing', id);
  tx.forget();
}

/** Looks up what is published for the domain, and says what to do about it. */
export async function checkDomain(use: Use, id: string): Promise<{ findings: DomainFinding[] }> {
  demand(use.actor, 'keys');
  const { signing } = (await mailServer(use, id)).settings;
  if (!signing) throw new Refusal(409, 'no-key', 'Make a key first.');
  return { findings: domainFindings(signing, await publishedRecords(signing)) };
}
