import { signatureTrouble } from '../../core/described/heard.ts';
import { SIGNATURE_PROBLEMS, verifyWebhook } from '../../core/signing/standard-webhooks.ts';
import type { RawArrival, SignedBy } from '../../core/source/source-kind.ts';

/** What is wrong with the signature of an arrival; null when nothing is, or none is asked for. */
export function signatureProblem(
  signed: SignedBy,
  secret: string | null,
  { headers, body }: RawArrival,
  now: number,
  /** What the business filled in for the service, by name. */
  values: Record<string, string> = {},
): { code: string; problem: string } | null {
  if (signed.way === 'nobody') return null;
  if (secret === null) return { code: 'bad-secret', problem: SIGNATURE_PROBLEMS['bad-secret'] };
  if (signed.way === 'described') return signatureTrouble(signed.hears, { headers, body }, { secret, values }, now);
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
