import { changeLabel } from '../../core/workflow/plan.ts';
import type { StepFormProps } from '../step-form.ts';
import type { TidySettings } from './definition.ts';

const CHOICES: { key: keyof TidySettings; label: string; about: string }[] = [
  { key: 'names', label: 'Names', about: 'spaces out, capitals where names have them' },
  { key: 'email', label: 'Email', about: 'spaces out, small letters, checked' },
  { key: 'phone', label: 'Phone', about: 'written with country code, checked' },
];

export default function TidyForm({ settings, change, plan, sampleName }: StepFormProps<TidySettings>) {
  return (
    <>
      {CHOICES.map(({ key, label, about }) => (
        <label key={key} className="mb-2 flex items-start gap-2">
          <input
            type="checkbox"
            className="checkbox checkbox-sm mt-0.5"
            checked={settings[key]}
            onChange={(event) => change({ [key]: event.target.checked })}
          />
          <span>
            <span className="font-semibold">{label}</span> <span className="text-ink-2">{about}</span>
          </span>
        </label>
      ))}
      {plan?.does === 'change' && (
        <>
          <h3 className="mt-4 mb-1.5 font-sans text-[13px] font-semibold text-ink-2">With {sampleName}</h3>
          <table className="table table-xs">
            <thead>
              <tr>
                <th>Field</th>
                <th>As typed</th>
                <th>After tidying</th>
              </tr>
            </thead>
            <tbody>
              {plan.changes.map((one) => (
                <tr key={one.field}>
                  <td className="font-semibold">{changeLabel(one.field)}</td>
                  <td className="break-all">{one.before}</td>
                  <td className="break-all">
                    <span className={one.after === one.before ? '' : 'rounded bg-brass-soft px-1'}>{one.after}</span>
                    {one.problem && <span className="text-warning"> {one.problem}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </>
      )}
    </>
  );
}
