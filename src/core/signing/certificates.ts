import { X509Certificate } from 'node:crypto';

/** A certificate as people tell it from others. */
export interface CertificateSeen {
  /** Whom it is for: its common name, or the whole of its subject. */
  name: string;
  /** The last day it holds, in UTC: "2026-12-24". */
  until: string;
}
export type ReadCertificates = { ok: true; certificates: CertificateSeen[] } | { ok: false; problem: string };

const BLOCK = /-----BEGIN CERTIFICATE-----[A-Za-z0-9+/=\s]+-----END CERTIFICATE-----/g;
const MOST = 20;

/** Certificates in a text (PEM, RFC 7468): what else stands between them is passed over, as that RFC has it (§2). */
export function readCertificates(pem: string): ReadCertificates {
  if (/-----BEGIN [A-Z ]*PRIVATE KEY-----/.test(pem))
    return { ok: false, problem: 'A private key stands in it: that stays with whoever signs. Leave it out.' };
  const blocks = pem.match(BLOCK) ?? [];
  if (blocks.length === 0 || blocks.length > MOST)
    return {
      ok: false,
      problem:
        blocks.length === 0
          ? 'No certificate stands in it: it begins with -----BEGIN CERTIFICATE-----.'
          : `At most ${MOST} certificates are taken.`,
    };
  try {
    return {
      ok: true,
      certificates: blocks.map((block) => {
        const { subject, validTo } = new X509Certificate(block);
        const name = /^CN=(.*)$/m.exec(subject)?.[1] ?? subject.replaceAll('\n', ', ');
        return { name: name.slice(0, 200), until: new Date(validTo).toISOString().slice(0, 10) };
      }),
    };
  } catch {
    return { ok: false, problem: 'One of the certificates is cut off or damaged: copy the whole of it.' };
  }
}
