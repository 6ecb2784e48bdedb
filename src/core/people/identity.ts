import { matchingEmail, readEmail } from '../message/email-address.ts';
import { readPhone } from './phone.ts';

/**
 * One way to recognise a person: a normal form of an email address or an E.164 number. A source of news stands for nobody and is
 * recognised by itself.
 */
export interface Identity {
  kind: 'email' | 'phone' | 'source';
  value: string;
}

/** The identities found in what somebody typed, email first: where two point to different people, the email decides. */
export function identitiesOf(person: { email: string; phone: string }, country: string): Identity[] {
  const found: Identity[] = [];
  const email = readEmail(person.email);
  if (email.ok) found.push({ kind: 'email', value: matchingEmail(email.address) });
  const phone = readPhone(person.phone, country);
  if (phone.ok) found.push({ kind: 'phone', value: phone.e164 });
  return found;
}
