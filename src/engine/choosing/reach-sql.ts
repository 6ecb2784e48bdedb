import type { Purpose } from '../../core/workflow/purpose.ts';
import { consentThatCounts } from '../../db/hot/consent-order.ts';

/**
 * What becomes of an email to many for a lead `l`, as SQL: 'reached' or why not (core/people/left-out.ts). An email to many goes by what they said about
 * news, whatever it is called, and a no to either kind stops it; the mailer plans by the same (`mailWishes`).
 */
export const reachSql = ({ needsConsent, purpose }: { needsConsent: boolean; purpose: Purpose }): string => {
  const news = consentThatCounts('l.id', "'email'", 'marketing');
  const service = consentThatCounts('l.id', "'email'", 'service');
  const asksYes = needsConsent || purpose === 'marketing';
  return `case when l.email = '' then 'no_address' when l.email !~ '^[^@[:space:]]+@[^@[:space:]]+$' then 'bad_address'
    when ${news} = 'withdrawn' or ${service} = 'withdrawn' then 'withdrawn'
    when exists (select from needs_you n where n.business_id = l.business_id and n.subject = 'refusal:email:' || l.id and n.settled_at is null) then 'doubted'
    ${asksYes ? `when ${news} is distinct from 'given' then 'no_consent'` : ''} else 'reached' end`;
};
