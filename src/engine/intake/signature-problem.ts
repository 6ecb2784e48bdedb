import { verifyBodyHmac } from '../../core/signing/body-hmac.ts';
import { SIGNATURE_PROBLEMS, verifyWebhook } from '../../core/signing/standard-webhooks.ts';
import type { RawArrival, SignedBy } from '../../core/source/source-kind.ts';

/** What is wrong with the signature of an arrival; null when nothing is, or none is asked for. */
export function signatureProblem(
  signed: SignedBy,
  secret: string | null,
  { headers, body }: RawArrival,
  now: number,
): { code: string; problem: string } | null {
  if (signed.way === 'nobody') return null;
  if (secret === null) return { code: 'bad-secret', problem: SIGNATURE_PROBLEMS['bad-secret'] };
  if (signed.way === 'body-hmac') {
    const code = verifyBodyHmac(secret, headers[signed.header] ?? null, body);
    const missing = `The header ${signed.header} with the signature is missing.`;
    return code && { code, problem: code === 'missing' ? missing : SIGNATURE_PROBLEMS.wrong };
  }
  const code = verifyWebhook(
    secret,
    {
      id: headers['webhook-id'] ?? null,
      timestamp: headers['webhook-timestamp'] ?? null,
      signature: headers['webhook-signature'] ?? null,
    },
    body,
    now,
  );
  return code && { code, problem: SIGNATURE_PROBLEMS[code] };
}
