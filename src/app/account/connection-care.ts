import { z } from 'zod';
import { type CertificateSeen, readCertificates } from '../../core/signing/certificates.ts';
import { Connection } from '../../db/entities/connection.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use } from '../use.ts';

/** Until when what a connection is made with holds, and whom it believes besides everybody. */
export interface CareView {
  /** The last day the key opens anything, as somebody said: "2026-12-24"; null where nobody did. */
  keyUntil: string | null;
  /** Certificates of authorities of the business's own. */
  authorities: CertificateSeen[];
  seen: string;
}

export const CareInput = z.object({
  keyUntil: z.union([z.iso.date('Say the day in full, or leave it empty'), z.literal('')]),
  /** PEM; null leaves what there is, an empty text takes it out. */
  authority: z.string().max(60_000, 'That is longer than certificates are').nullable(),
});

type Of = { settings: { authority?: string | undefined }; keyUntil?: string | null | undefined };
const content = ({ settings: { authority }, keyUntil }: Of) => ({
  keyUntil: keyUntil ?? null,
  authority: authority ?? null,
});
const view = ({ settings: { authority }, keyUntil }: Of): CareView => {
  const read = authority ? readCertificates(authority) : null;
  const shown = { keyUntil: keyUntil ?? null, authorities: read?.ok ? read.certificates : [] };
  return { ...shown, seen: seenAs(content({ settings: { authority }, keyUntil })) };
};

export async function getCare(use: Use, id: string): Promise<CareView> {
  const found = await use.em.findOne(Connection, { id, business: use.actor.businessId });
  if (!found) throw notHere('connection');
  return view(found);
}

/** Sets both. What a service is called by is tried by itself afterwards. */
export async function changeCare(use: Use, id: string, input: z.infer<typeof CareInput>): Promise<CareView> {
  demand(use.actor, 'keys');
  const pem = input.authority?.trim();
  const read = pem ? readCertificates(pem) : null;
  if (read && !read.ok) throw new Refusal(422, 'authority', read.problem);
  return use.write(async (tx) => {
    await tx.db.query('select from connection where id = $1 for update', [id]);
    const found = await tx.em.findOne(Connection, { id, business: tx.actor.businessId });
    if (!found) throw notHere('connection');
    const before = view(found);
    refuseUnseen(tx, 'connection', content(found));
    const { authority: old, ...settings } = found.settings;
    const authority = pem === undefined ? old : pem;
    found.settings = { ...settings, ...(authority ? { authority } : {}) };
    found.keyUntil = input.keyUntil || null;
    const after = view(found);
    const told = ({ keyUntil, authorities }: CareView) => ({
      keyUntil: keyUntil ?? '',
      authorities: authorities.map(({ name }) => name).join(', '),
    });
    tx.note('connection.care', id, { before: told(before), after: told(after) });
    tx.forget();
    return after;
  });
}
