import { bound } from '../../components/bound.ts';
import { Choice, Tick } from '../../components/fields.tsx';
import { LikelyFields } from '../../components/LikelyFields.tsx';
import { MakeInPlace } from '../../components/MakeInPlace.tsx';
import { PlanWords } from '../../components/PlanWords.tsx';
import { ThingChoice } from '../../components/ThingChoice.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import { type ListSettings, notConfirming } from './definition.ts';

export default function ListForm(form: StepFormProps<ListSettings>) {
  const { stepId, settings, change, catalogue, plan, sampleName, make, addField } = form;
  const of = bound(settings, change);
  const list = catalogue.lists.find((list) => list.id === settings.list);
  const share = list ? notConfirming(list) : null;
  return (
    <>
      <Choice
        label="What"
        {...of('action')}
        options={[
          ['add', 'Put them on a list'],
          ['remove', 'Take them off a list'],
        ]}
      />
      <ThingChoice label="List" what="list" {...of('list')} things={catalogue.lists} none="Choose a list" />
      <MakeInPlace make={async (name) => change({ list: (await make('list', name)).id })} />
      {list?.optIn === 'double' && settings.action === 'add' && (
        <>
          <p className="notice mb-2 text-note">
            This list asks people to confirm by email first.
            {share !== null && ` ${share} % of those who were asked never did.`}
          </p>
          <Tick label="They have agreed already where they came from: do not ask again" {...of('proven')} />
        </>
      )}
      {list && settings.action === 'add' && (
        <LikelyFields
          wanted={list.fields.filter((field) => !settings.fields[field.key]?.trim())}
          onTake={(taken) => change({ fields: { ...settings.fields, ...taken } })}
        />
      )}
      {list &&
        settings.action === 'add' &&
        list.fields.map((field) => (
          <TokenField
            key={`${stepId}-${field.key}`}
            field={`fields.${field.key}`}
            label={field.label}
            single
            value={settings.fields[field.key] ?? ''}
            onChange={(value) => change({ fields: { ...settings.fields, [field.key]: value } })}
          />
        ))}
      {list && settings.action === 'add' && (
        <MakeInPlace label="Another field of this list" make={(name) => addField(list.id, name)} />
      )}
      {list && list.stopped !== '' && <p className="notice warn mb-2 text-note">{list.stopped}.</p>}
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
