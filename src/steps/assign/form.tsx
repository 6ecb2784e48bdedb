import { PlanWords } from '../../components/PlanWords.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { AssignSettings } from './definition.ts';

export default function AssignForm({ settings, change, desk, plan, sampleName }: StepFormProps<AssignSettings>) {
  return (
    <>
      <fieldset className="mb-3" data-field="among">
        <legend className="field-label">Who takes turns</legend>
        {desk.colleagues.map((one) => (
          <label key={one.id} className="mb-1.5 flex items-center gap-2">
            <input
              type="checkbox"
              className="checkbox checkbox-sm"
              checked={settings.among.includes(one.id)}
              onChange={(event) =>
                change({
                  among: event.target.checked
                    ? [...settings.among, one.id]
                    : settings.among.filter((id) => id !== one.id),
                })
              }
            />
            {one.name}
          </label>
        ))}
        <p className="text-[13px] text-ink-2">Each new lead goes to the next; who is away is passed over.</p>
      </fieldset>
      <label className="mb-2 flex items-center gap-2 text-[13px]">
        <input
          type="checkbox"
          className="checkbox checkbox-sm"
          checked={settings.keep}
          onChange={(event) => change({ keep: event.target.checked })}
        />
        Somebody who has an owner keeps them
      </label>
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
