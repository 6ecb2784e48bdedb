import { useContext } from 'react';
import { Choice, Line } from '../../components/Choice.tsx';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { PlanWords } from '../../components/PlanWords.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { readReference, writeReference } from '../../core/template/field-reference.ts';
import type { StepFormProps } from '../step-form.ts';
import type { FieldSettings } from './definition.ts';

const PERSON = [
  ['lead.first_name', 'First name'],
  ['lead.last_name', 'Last name'],
  ['lead.email', 'Email'],
  ['lead.phone', 'Phone'],
] as const;
const OWN = 'own';

export default function FieldForm({ stepId, settings, change, plan, sampleName }: StepFormProps<FieldSettings>) {
  const { fields } = useContext(FieldPickerContext);
  const answers = fields.filter((field) => field.group === 'answers');
  const options: (readonly [string, string])[] = [
    ['', 'Choose a field'],
    ...PERSON,
    ...answers.map((field) => [writeReference(field), field.label] as const),
    [OWN, 'A field of your own'],
  ];
  const known = options.some(([value]) => value === settings.field);
  return (
    <>
      <Choice
        label="Field"
        field="field"
        value={known ? settings.field : OWN}
        options={options}
        onChange={(field) => change({ field: field === OWN ? 'answers.level' : field })}
      />
      {!known && (
        <Line
          label="Name of the field"
          value={readReference(settings.field)?.key ?? ''}
          most={60}
          onChange={(key) =>
            change({ field: writeReference({ group: 'answers', key: key.trim().toLowerCase().replace(/\s+/g, '_') }) })
          }
        />
      )}
      <TokenField
        key={stepId}
        name="value"
        label="Its value"
        single
        value={settings.value}
        onChange={(value) => change({ value })}
      />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
