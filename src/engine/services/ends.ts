import type pg from 'pg';
import { fill } from '../../core/described/fill.ts';
import { isDescribed } from '../../core/described/works.ts';
import { type CertificateSeen, readCertificates } from '../../core/signing/certificates.ts';
import { dayMonth } from '../../core/words/instant.ts';
import { describedAccount } from '../../db/described-account.ts';
import type { ConnectionKind, ConnectionSettings } from '../../db/entities/connection.ts';
import type { SecretBox } from '../../db/secret-box.ts';

/** So many days before the end somebody is told. */
const DAYS_BEFORE = 7;

interface Row {
  id: string;
  business_id: string;
  kind: ConnectionKind;
  name: string;
  settings: ConnectionSettings;
  secret: string | null;
  key_until: string | null;
  locale: string;
  /** The day it is in the business, so many days on. */
  until: string;
}
interface End {
  id: string;
  businessId: string;
  subject: string;
  title: string;
  detail: string;
}

/** Tells a business, once each, of keys and certificates of its connections that end within a week; and no longer, where others have been put in. */
export async function warnOfEnds({ pool, secrets }: { pool: pg.Pool; secrets: SecretBox }): Promise<void> {
  const { rows } = await pool.query<Row>(
    `select c.id, c.business_id, c.kind, c.name, c.settings, c.secret, c.key_until::text, b.locale, ((now() at time zone b.time_zone)::date + ${DAYS_BEFORE})::text as until
     from connection c join business b on b.id = c.business_id where c.removed_at is null and b.removed_at is null
       and (c.key_until is not null or c.settings ? 'authority' or c.settings #>> '{description,signIn,way}' = 'certificate')`,
  );
  const ends = rows.flatMap((row) => endsOf(row, secrets));
  await pool.query(
    `insert into needs_you (id, business_id, kind, subject, title, detail, created_at)
     select gen_random_uuid(), e."businessId", 'key_ends', e.subject, e.title, e.detail, now()
     from jsonb_to_recordset($1::jsonb) as e("businessId" uuid, subject text, title text, detail text) on conflict (business_id, subject) do nothing`,
    [JSON.stringify(ends)],
  );
  await pool.query(
    `update needs_you set settled_at = now() where kind = 'key_ends' and settled_at is null and subject <> all($1::text[])`,
    [ends.map(({ subject }) => subject)],
  );
}

/** What was sealed with a key that is lost is no certificate. */
function opened(secret: string | null, secrets: SecretBox): string | null {
  if (secret === null) return null;
  try {
    return secrets.open(secret);
  } catch {
    return null;
  }
}

function endsOf(
  { id, business_id, kind, name, settings, secret, key_until, locale, until }: Row,
  secrets: SecretBox,
): End[] {
  const end = (what: string, day: string, todo: string): End[] =>
    day > until
      ? []
      : [
          {
            ...{ id, businessId: business_id, subject: `key-end:${id}:${what}:${day}` },
            title: `${name}: its ${what} ends ${dayMonth(day, locale, true)}`,
            detail: `${todo} After that day nothing goes by it.`,
          },
        ];
  const first = (pem: string): CertificateSeen | null => {
    const read = readCertificates(pem);
    return read.ok ? read.certificates.reduce((a, b) => (a.until <= b.until ? a : b)) : null;
  };
  const authority = settings.authority ? first(settings.authority) : null;
  const shown = isDescribed(kind)
    ? describedAccount({ id, kind, name, settings, secret: opened(secret, secrets) })
    : null;
  const signIn = shown?.description.signIn;
  const filled =
    shown && signIn?.way === 'certificate' ? fill(signIn.certificate, { given: {}, account: shown.values }) : null;
  const own = filled?.ok ? first(filled.text) : null;
  return [
    ...(key_until ? end('key', key_until, 'Get another from the service and put it in.') : []),
    ...(own ? end('certificate', own.until, 'Get another and put it in.') : []),
    ...(authority ? end('authority’s certificate', authority.until, 'Put the next one in.') : []),
  ];
}
