import { useContext } from 'react';
import {
  type FieldReference,
  readReference,
  referenceLabel,
  writeReference,
} from '../core/template/field-reference.ts';
import { FieldMenu } from './FieldMenu.tsx';
import { FieldPickerContext } from './field-picker.ts';
import { ListPopover } from './ListPopover.tsx';

interface Props {
  label: string;
  /** A field as it is referred to, or one of the `others`. */
  value: string;
  onChange: (reference: string) => void;
  /** What else can be chosen. */
  others?: readonly (readonly [value: string, words: string])[];
  groups?: readonly FieldReference['group'][];
  /** What stands there while nothing is chosen. */
  none?: string;
  field?: string;
}

/** Chooses one of the fields at hand, by name or by what the sample has in it. One that is not there any more keeps its place, so that it can be seen. */
export function FieldChoice({ label, value, onChange, others = [], groups, none = 'Choose a field', field }: Props) {
  const { fields, labels } = useContext(FieldPickerContext);
  const shown = groups ? fields.filter((one) => groups.includes(one.group)) : fields;
  const other = others.find(([one]) => one === value)?.[1];
  const known = shown.find((one) => writeReference(one) === value);
  const read = readReference(value);
  const words =
    other ??
    known?.label ??
    (value === '' ? none : `${read ? referenceLabel(read, labels) : value} (not in this sample)`);
  return (
    <ListPopover label={label} words={words} empty={value === '' && !other} field={field} tiny>
      {(close) => {
        const pick = (reference: string) => {
          close();
          onChange(reference);
        };
        return <FieldMenu fields={shown} others={others} onPick={pick} />;
      }}
    </ListPopover>
  );
}
