import { z } from 'zod';
import { readEmail } from '../../core/message/email-address.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  whenNone: z.enum(['blanks', 'end_moment', 'end_run']),
  /** How long an answer is kept, in days, before the directory is asked again. */
  keepDays: z.number().int().min(0).max(365),
});
export type CompanySettings = z.infer<typeof Settings>;
export type CompanyAsked = { domain: string; keepDays: number };

/** What a directory tells of a company, as docs/gateways.md has it. */
export const COMPANY_FIELDS = {
  name: 'Company',
  sector: 'Sector',
  town: 'Town',
  country: 'Country',
  employees: 'Employees',
} as const;

/** Looks up the lead's company by the domain of their email address. */
export const company: StepKind<CompanySettings> = {
  kind: 'company',
  label: 'Look up their company',
  icon: 'building-2',
  places: ['first'],
  settings: Settings,
  blank: () => ({ whenNone: 'blanks', keepDays: 30 }),
  card: () => ({ title: 'Look up their company', line: '' }),
  aloud: () => 'look up their company by their email address',
  check: (_, { catalogue }) =>
    catalogue.directory
      ? []
      : [{ weight: 'must', code: 'no-connection', text: 'Company: no company directory is connected yet.' }],
  templates: () => [],
  gives: () => Object.entries(COMPANY_FIELDS).map(([key, label]) => ({ key: `company.${key}`, label })),
  plan: ({ whenNone, keepDays }, { context, catalogue }) => {
    if (!catalogue.directory)
      return { does: 'ask', why: { code: 'no_sender', text: 'No company directory is connected' } };
    const email = readEmail(context.person.email);
    if (!email.ok) return { does: 'nothing', why: { code: 'no_address', text: 'There is no email address to go by' } };
    const domain = email.address.slice(email.address.lastIndexOf('@') + 1).toLowerCase();
    return {
      does: 'call',
      words: `Asks the directory about ${domain}`,
      ...(whenNone === 'blanks' ? {} : { ends: whenNone === 'end_run' ? ('run' as const) : ('moment' as const) }),
      what: { domain, keepDays } satisfies CompanyAsked,
    };
  },
};
