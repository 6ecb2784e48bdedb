import { bound } from '../../components/bound.ts';
import { ColleagueChoice } from '../../components/ColleagueChoice.tsx';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { HoldTimeSettings } from './definition.ts';

export default function HoldTimeForm(form: StepFormProps<HoldTimeSettings>) {
  const { settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  return (
    <>
      <ColleagueChoice label="Whose time" {...of('colleague')} catalogue={catalogue} nobody="Choose a colleague" />
      <TokenField label="For what" single {...of('title')} />
      <div className="grid grid-cols-2 gap-2">
        <Line label="At" type="time" {...of('time')} />
        <Choice
          label="How long"
          value={String(settings.minutes)}
          options={['10', '15', '20', '30', '45', '60', '90'].map((n) => [n, `${n} minutes`] as const)}
          onChange={(minutes) => change({ minutes: Number(minutes) })}
        />
      </div>
      <Choice
        label="On"
        {...of('day')}
        options={[
          ['next_day', 'The next day'],
          ['soonest', 'The same day, if the time is still to come'],
        ]}
      />
      <Tick label="Working days only" {...of('workingDays')} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
