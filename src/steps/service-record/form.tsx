import { Choice } from '../../components/fields.tsx';
import { LikelyFields } from '../../components/LikelyFields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { ServiceRecordSettings } from './definition.ts';

export default function ServiceRecordForm(form: StepFormProps<ServiceRecordSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const services = (catalogue.services ?? []).filter(({ records }) => records.length > 0);
  const records = services.find(({ id }) => id === settings.connection)?.records ?? [];
  const takes = records.find(({ key }) => key === settings.record)?.takes ?? [];
  const first = (id: string) => services.find((one) => one.id === id)?.records[0]?.key ?? '';
  return (
    <>
      {services.length === 0 && (
        <p className="mb-3 text-note text-ink-2">
          No service is connected that keeps records. An owner connects one under Connections, “Another service”, or a
          table in a file, “Files elsewhere”.
        </p>
      )}
      <ThingChoice
        label="Service"
        what="service"
        field="connection"
        value={settings.connection}
        things={services}
        none="Choose a service"
        onChange={(id) => change({ connection: id, record: first(id), values: {} })}
      />
      {records.length > 1 && (
        <Choice
          label="As"
          value={settings.record}
          options={records.map(({ key, label }) => [key, label] as const)}
          onChange={(record) => change({ record, values: {} })}
        />
      )}
      {takes.length > 0 && (
        <LikelyFields
          wanted={takes.filter(({ key }) => !settings.values[key]?.trim())}
          onTake={(taken) => change({ values: { ...settings.values, ...taken } })}
        />
      )}
      {takes.map(({ key, label, needed }) => (
        <TokenField
          key={`${stepId}-${key}`}
          field={`values.${key}`}
          label={needed ? `${label} (needed)` : label}
          single
          value={settings.values[key] ?? ''}
          onChange={(value) => change({ values: { ...settings.values, [key]: value } })}
        />
      ))}
      {takes.length > 0 && (
        <p className="mb-3 text-note text-ink-2">
          Made the first time; the second time the same record is brought up to date.
        </p>
      )}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
