import { ColleagueChoice } from '../../components/ColleagueChoice.tsx';
import { Choice, Line, Tick } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { HoldTimeSettings } from './definition.ts';

export default function HoldTimeForm({
  stepId,
  settings,
  change,
  desk,
  plan,
  sampleName,
}: StepFormProps<HoldTimeSettings>) {
  return (
    <>
      <ColleagueChoice
        label="Whose time"
        value={settings.colleague}
        desk={desk}
        nobody="Choose a colleague"
        onChange={(colleague) => change({ colleague })}
      />
      <TokenField
        key={stepId}
        name="title"
        label="For what"
        single
        value={settings.title}
        onChange={(title) => change({ title })}
      />
      <div className="grid grid-cols-2 gap-2">
        <Line label="At" type="time" value={settings.time} onChange={(time) => change({ time })} />
        <Choice
          label="How long"
          value={String(settings.minutes)}
          options={['10', '15', '20', '30', '45', '60', '90'].map((n) => [n, `${n} minutes`] as const)}
          onChange={(minutes) => change({ minutes: Number(minutes) })}
        />
      </div>
      <Choice
        label="On"
        value={settings.day}
        options={[
          ['next_day', 'The next day'],
          ['soonest', 'The same day, if the time is still to come'],
        ]}
        onChange={(day) => change({ day })}
      />
      <Tick label="Working days only" on={settings.workingDays} onChange={(on) => change({ workingDays: on })} />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
