import { lazy, Suspense } from 'react';
import { GROUP_LABELS, writeReference } from '../core/template/field-reference.ts';
import type { PickableField } from './field-picker.ts';
import { foundFields, namedAlike } from './found-fields.ts';
import type { Pickable, PickMenuProps } from './PickMenu.tsx';

const PickMenu = lazy(() => import('./PickMenu.tsx'));

interface Props extends Pick<PickMenuProps, 'others'> {
  fields: readonly PickableField[];
  /** A field as it is referred to, or one of the `others`. */
  onPick: (reference: string) => void;
}

/** Fields to choose from, with what the sample has in each; typed in, only those that fit are left. */
export function FieldMenu({ fields, ...rest }: Props) {
  const alike = namedAlike(fields);
  const shown = (field: PickableField): Pickable => ({
    id: writeReference(field),
    words: field.label,
    about: alike.has(field.label) ? `${GROUP_LABELS[field.group]}, ${field.key}` : GROUP_LABELS[field.group],
    value: field.value,
  });
  return (
    <Suspense>
      <PickMenu
        label="Find a field"
        found={(typed) => foundFields(fields, typed).map(shown)}
        none="Catch a sample lead first; then its fields stand here."
        {...rest}
      />
    </Suspense>
  );
}
