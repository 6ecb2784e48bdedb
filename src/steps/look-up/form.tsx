import { bound } from '../../components/bound.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { tabThings } from '../../components/tab-things.ts';
import { keptKey } from '../kept-key.ts';
import type { StepFormProps } from '../step-form.ts';
import { DEAL_FOUND, LEAD_FOUND, type LookUpSettings } from './definition.ts';

export default function LookUpForm(form: StepFormProps<LookUpSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  const tab = catalogue.tabs.find((tab) => tab.id === settings.tab);
  const gives: [string, string][] =
    settings.among === 'sheet'
      ? (tab?.columns ?? []).map((column) => [column.id, column.name])
      : Object.entries(settings.among === 'leads' ? LEAD_FOUND : DEAL_FOUND);
  return (
    <>
      <Line
        label="What is looked up"
        field="name"
        value={settings.name}
        maxLength={40}
        placeholder="Teacher"
        onChange={(name) => change({ name, key: keptKey(settings, stepId) })}
      />
      <Choice
        label="Where"
        {...of('among')}
        options={[
          ['sheet', 'In a sheet'],
          ['leads', 'Among the leads, by email or phone'],
          ['deals', 'Among the deals, by the lead’s email or phone'],
        ]}
      />
      {settings.among === 'sheet' && (
        <ThingChoice
          label="In the sheet"
          what="tab"
          field="tab"
          value={settings.tab}
          things={tabThings(catalogue)}
          none="Choose a sheet"
          onChange={(id) => change({ tab: id, column: '' })}
        />
      )}
      {settings.among === 'sheet' && tab && (
        <Choice
          label="Where the column"
          {...of('column')}
          options={[['', 'Choose a column'], ...tab.columns.map((column) => [column.id, column.name] as const)]}
        />
      )}
      <TokenField label={settings.among === 'sheet' ? 'is' : 'Whose email or phone is'} single {...of('value')} />
      <Choice
        label="If nothing is found"
        {...of('whenNone')}
        options={[
          ['blanks', 'Carry on, its fields empty or as below'],
          ['end_moment', 'Leave out this moment'],
          ['end_run', 'End here: nothing more for this lead'],
        ]}
      />
      {settings.whenNone === 'blanks' && gives.length > 0 && (
        <details className="mb-3" open={Object.values(settings.instead).some(Boolean)}>
          <summary className="cursor-pointer text-note text-ink-2">What its fields hold then</summary>
          <div className="mt-2">
            {gives.map(([key, label]) => (
              <Line
                key={key}
                label={label}
                value={settings.instead[key] ?? ''}
                placeholder="empty"
                onChange={(value) => change({ instead: { ...settings.instead, [key]: value } })}
              />
            ))}
          </div>
        </details>
      )}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
