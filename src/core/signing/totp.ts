import { Secret, TOTP } from 'otpauth';

/** RFC 6238 §5.2: a code is good for 30 seconds; one before and one after are taken too, for clocks that differ. */
const PERIOD_S = 30;
const DIGITS = 6;
const DRIFT_STEPS = 1;

/** A secret as authenticator programs take it: 160 bits in base32 (RFC 4226 §4 R6). */
export const newTotpSecret = (): string => new Secret({ size: 20 }).base32;

const totpOf = (secret: string, label = '') =>
  new TOTP({
    issuer: 'Pine Bell',
    ...{ label, secret: Secret.fromBase32(secret), algorithm: 'SHA1', digits: DIGITS, period: PERIOD_S },
  });

/** The address an authenticator program reads from a picture: otpauth://totp/… */
export const totpAddress = (secret: string, email: string): string => totpOf(secret, email).toString();

/**
 * The time step a code belongs to, or null when it is none of now, or not later than the one used last: RFC 6238 §5.2 wants each good once.
 *
 * @param secret base32
 * @param now milliseconds
 * @param lastStep the step whose code was taken last; 0 for none
 */
export function totpStep(secret: string, code: string, now: number, lastStep: number): number | null {
  const token = code.replace(/\s/g, '');
  if (!/^\d{6}$/.test(token)) return null;
  const at = Math.floor(now / 1000 / PERIOD_S);
  // Each by itself: the code of the step before could be that of the next too, by chance.
  for (let step = at - DRIFT_STEPS; step <= at + DRIFT_STEPS; step++)
    if (step > lastStep && totpOf(secret).validate({ token, timestamp: step * PERIOD_S * 1000, window: 0 }) === 0)
      return step;
  return null;
}
