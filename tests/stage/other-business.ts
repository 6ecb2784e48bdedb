import { hashPassword } from '../../src/app/account/sign-in.ts';
import { type Stage, signedIn } from './stage.ts';

const EVE = { email: 'eve@other.example', password: 'other-password' };
const OTHER = { business: '01999999-0000-7000-8000-00000000000b', person: '01999999-0000-7000-8000-00000000000c' };

/** A second business in the same installation, and its owner, signed in. */
export async function otherBusiness(stage: Stage) {
  await stage.db.query(
    `insert into business (id, name, country, locale, time_zone, created_at) values ($1, 'Other', 'GB', 'en-GB', 'UTC', now()) on conflict do nothing`,
    [OTHER.business],
  );
  await stage.db.query(
    `insert into person (id, email, name, password_hash, created_at) values ($1, $2, 'Eve', $3, now()) on conflict do nothing`,
    [OTHER.person, EVE.email, await hashPassword(EVE.password)],
  );
  await stage.db.query(
    `insert into membership (id, business_id, person_id, role) values (gen_random_uuid(), $1, $2, 'owner') on conflict do nothing`,
    [OTHER.business, OTHER.person],
  );
  return { ...OTHER, eve: await signedIn(stage, EVE) };
}
