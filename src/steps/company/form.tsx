import { bound } from '../../components/bound.ts';
import { Choice } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import type { StepFormProps } from '../step-form.ts';
import { COMPANY_FIELDS, type CompanySettings } from './definition.ts';

const KEEP = ['0', '1', '7', '30', '90', '365'] as const;

export default function CompanyForm({ settings, change, catalogue, plan, sampleName }: StepFormProps<CompanySettings>) {
  const of = bound(settings, change);
  return (
    <>
      <p className="mb-3 text-note text-ink-2">
        Asks {catalogue.directory?.name ?? 'a company directory'} by the domain of their email address. Addresses
        anybody can have are passed over. Later steps can use: {Object.values(COMPANY_FIELDS).join(', ').toLowerCase()}.
      </p>
      <Choice
        label="If nothing is found"
        {...of('whenNone')}
        options={[
          ['blanks', 'Carry on, with its fields empty'],
          ['end_moment', 'Leave out this moment'],
          ['end_run', 'End here: nothing more for this lead'],
        ]}
      />
      <Choice
        label="Keep an answer for"
        value={String(settings.keepDays)}
        options={KEEP.map(
          (days) => [days, days === '0' ? 'not at all' : days === '1' ? '1 day' : `${days} days`] as const,
        )}
        onChange={(days) => change({ keepDays: Number(days) })}
      />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
