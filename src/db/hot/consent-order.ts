/**
 * The order of core/consent/precedence.ts in SQL, for rows of `consent` named `c`: the first row is the one that counts. Index
 * consent_lead finds the rows.
 */
export const consentOrder = (c: string): string =>
  `case ${c}.said_by when 'themselves' then 0 when 'reported' then 1 else 2 end, ${c}.state = 'unticked', ${c}.at desc, ${c}.id desc`;

/**
 * Text of a sub-select: what counts of what a lead said about a channel and purpose, one of 'given', 'unticked', 'withdrawn', or null. The
 * arguments are SQL expressions.
 */
export const consentThatCounts = (lead: string, channel: string, purpose: 'service' | 'marketing'): string =>
  `(select k.state from consent k where k.lead_id = ${lead} and k.channel = ${channel} and coalesce(k.purpose, '${purpose}') = '${purpose}' order by ${consentOrder('k')} limit 1)`;
