import type { PickableField } from '../../components/field-picker.ts';
import { referenceLabel } from '../../core/template/field-reference.ts';

/** Fields every reader of an email has. */
export const READER_FIELDS: PickableField[] = (
  [
    ['lead', 'first_name'],
    ['lead', 'last_name'],
    ['lead', 'full_name'],
    ['lead', 'email'],
    ['lead', 'phone'],
    ['lead', 'leave_link'],
    ['business', 'name'],
    ['owner', 'name'],
  ] as const
).map(([group, key]) => ({ group, key, value: '', label: referenceLabel({ group, key }) }));
