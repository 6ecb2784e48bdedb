import { useContext } from 'react';
import { bound } from '../../components/bound.ts';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { Choice, Line } from '../../components/fields.tsx';
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
/** A field of one's own that has no name yet: not to be put live. */
const OWN_UNNAMED = 'own.';
const ownField = (typed: string): string => {
  const key = typed.trim().toLowerCase().replace(/\s+/g, '_');
  return key === '' ? OWN_UNNAMED : writeReference({ group: 'own', key });
};

export default function FieldForm({ settings, change, plan, sampleName }: StepFormProps<FieldSettings>) {
  const of = bound(settings, change);
  const { fields } = useContext(FieldPickerContext);
  const answers = fields.filter((field) => field.group === 'answers' || field.group === 'own');
  const options: (readonly [string, string])[] = [
    ['', 'Choose a field'],
    ...PERSON,
    ...answers.map(
      (field) =>
        [
          writeReference(field),
          `${field.label}, ${field.group === 'own' ? 'own field' : 'answer of the source'}`,
        ] as const,
    ),
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
        onChange={(field) => change({ field: field === OWN ? OWN_UNNAMED : field })}
      />
      {!known && (
        <Line
          label="Name of the field"
          value={readReference(settings.field)?.key ?? ''}
          maxLength={60}
          onChange={(typed) => change({ field: ownField(typed) })}
        />
      )}
      <TokenField label="Its value" single {...of('value')} />
      <Choice
        label="If the value is empty"
        field="empty"
        value={settings.empty}
        options={[
          ['keep', 'Leave the field as it was'],
          ['clear', 'Clear it: take away what was there'],
        ]}
        onChange={(empty) => change({ empty: empty as FieldSettings['empty'] })}
      />
      <PlanWords plan={plan} name={sampleName} />
    </>
  );
}
