import { bound } from '../../components/bound.ts';
import { Choice, Line } from '../../components/fields.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { keptKey } from '../kept-key.ts';
import type { StepFormProps } from '../step-form.ts';
import type { ServiceLookUpSettings } from './definition.ts';

export default function ServiceLookUpForm(form: StepFormProps<ServiceLookUpSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName } = form;
  const of = bound(settings, change);
  const services = (catalogue.services ?? []).filter(({ lookUps }) => lookUps.length > 0);
  const lookUps = services.find(({ id }) => id === settings.connection)?.lookUps ?? [];
  const found = lookUps.find(({ key }) => key === settings.lookUp);
  /** What it answers is called after what it is asked, until somebody says otherwise. */
  const named = (id: string, key: string | undefined) => {
    const label = services.find((one) => one.id === id)?.lookUps.find((one) => one.key === key)?.label ?? '';
    return settings.name === '' || settings.name === found?.label.slice(0, 40) ? { name: label.slice(0, 40) } : {};
  };
  const first = (id: string) => services.find((one) => one.id === id)?.lookUps[0]?.key ?? '';
  return (
    <>
      {services.length === 0 && (
        <p className="mb-3 text-note text-ink-2">
          No service is connected that can be asked. An owner connects one under Connections, “Another service”.
        </p>
      )}
      <ThingChoice
        label="Service"
        what="service"
        field="connection"
        value={settings.connection}
        things={services}
        none="Choose a service"
        onChange={(id) => change({ connection: id, lookUp: first(id), values: {}, ...named(id, first(id)) })}
      />
      {lookUps.length > 1 && (
        <Choice
          label="Ask for"
          value={settings.lookUp}
          options={lookUps.map(({ key, label }) => [key, label] as const)}
          onChange={(lookUp) => change({ lookUp, values: {}, ...named(settings.connection, lookUp) })}
        />
      )}
      {found?.takes.map(({ key, label }) => (
        <TokenField
          key={`${stepId}-${key}`}
          field={`values.${key}`}
          label={`By: ${label}`}
          single
          value={settings.values[key] ?? ''}
          onChange={(value) => change({ values: { ...settings.values, [key]: value } })}
        />
      ))}
      {found && (
        <>
          <Line
            label="Name of what it answers"
            field="name"
            value={settings.name}
            maxLength={40}
            onChange={(name) => change({ name, key: keptKey(settings, stepId) })}
          />
          <p className="mb-3 text-note text-ink-2">
            Later steps can use: {found.gives.map(({ label }) => label.toLowerCase()).join(', ')}.
          </p>
        </>
      )}
      <Choice
        label="If nothing is found"
        {...of('whenNone')}
        options={[
          ['blanks', 'Carry on, with its fields empty'],
          ['end_moment', 'Leave out this moment'],
          ['end_run', 'End here: nothing more for this lead'],
        ]}
      />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
