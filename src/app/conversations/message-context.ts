import { leadZone } from '../../core/time/phone-zone.ts';
import type { Channel } from '../../core/workflow/channel.ts';
import {
  allConsents,
  type ConsentState,
  type Owner,
  type RunContext,
  startContext,
} from '../../core/workflow/run-context.ts';
import type { Catalogue } from '../../core/workflow/step-kind.ts';
import type { Use } from '../use.ts';

/** Whom a message written by hand is for, as their row has it. */
export interface AddressedLead {
  first_name: string;
  last_name: string;
  email: string;
  phone: string;
  answers: Record<string, string>;
  own?: Record<string, string>;
}

/** What they agreed to, for what they asked (`consent`) and for news and offers (`marketing`). */
export async function consentsOf(use: Use, leadId: string): Promise<Pick<RunContext, 'consent' | 'marketing'>> {
  type Known = Partial<Record<Channel, ConsentState>>;
  const { rows } = await use.db.query<{ service: Known; news: Known }>(
    `select consents_of($1, 'service') as service, consents_of($1, 'marketing') as news`,
    [leadId],
  );
  return { consent: allConsents(rows[0]!.service), marketing: allConsents(rows[0]!.news) };
}

/** The colleague who looks after whoever the conversation is with. */
export const ownerOf = (row: { owner_id: string | null }, { colleagues }: Pick<Catalogue, 'colleagues'>) =>
  colleagues.find((colleague) => colleague.id === row.owner_id) ?? null;

/** What a message written by hand may use. */
export function contextOf(
  use: Use,
  row: AddressedLead,
  consents: Pick<RunContext, 'consent' | 'marketing'>,
  owner: Owner | null,
): RunContext {
  const { businessName, country, timeZone, holidays, locale } = use.actor;
  const person = { first_name: row.first_name, last_name: row.last_name, email: row.email, phone: row.phone };
  return startContext({ person, answers: row.answers }, person, {
    where: {},
    business: { name: businessName, country, timeZone, holidays, locale },
    zone: leadZone(row.phone, country),
    source: { name: '' },
    ...consents,
    own: row.own ?? {},
    owner,
  });
}
