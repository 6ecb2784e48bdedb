import { writeReference } from '../../core/template/field-reference.ts';
import type { FieldSet } from '../../core/workflow/plan.ts';
import { isOpenToAll } from '../../gateways/mail-domains.ts';
import type { StepPerformer } from '../step-performer.ts';
import { COMPANY_FIELDS, type CompanyAsked } from './definition.ts';

export const companyLookUp: StepPerformer = {
  async call(outside, what, { businessId }) {
    const { domain, keepDays } = what as CompanyAsked;
    const fields = (found: Record<string, string>): FieldSet[] =>
      Object.keys(COMPANY_FIELDS).map((key) => ({
        reference: writeReference({ group: 'found', key: `company.${key}` }),
        value: found[key] ?? '',
      }));
    if (isOpenToAll(domain))
      return { kind: 'accepted', code: 'none', detail: `${domain} is open to everybody`, results: fields({}) };
    const answer = await outside.companies.find(businessId, domain, keepDays);
    if (answer.kind !== 'answered') return answer;
    return answer.company
      ? { kind: 'accepted', code: 'found', detail: answer.detail, results: fields(answer.company) }
      : { kind: 'accepted', code: 'none', detail: 'The directory knows no company of this name', results: fields({}) };
  },
};
