import type { PickableField } from '../../components/field-picker.ts';
import { labelFromKey } from '../../core/fields/field.ts';
import { TOUCH_GROUPS, TOUCH_KEYS } from '../../core/source/touches.ts';
import { WHERE_KEYS } from '../../core/source/where-from.ts';
import { type FieldReference, RECORD_LABELS, referenceLabel } from '../../core/template/field-reference.ts';
import { type Catalogue, memberLabels } from '../../core/workflow/step-kind.ts';

/** What can be asked about leads as they stand on record, without a run. */
export function segmentFields(
  keys: { answers: readonly string[]; own: readonly string[] },
  catalogue: Catalogue,
): PickableField[] {
  const field = (group: FieldReference['group'], key: string, label?: string): PickableField => ({
    group,
    key,
    value: '',
    label: label ?? referenceLabel({ group, key }),
  });
  return [
    ...['first_name', 'last_name', 'full_name', 'email', 'phone'].map((key) => field('lead', key)),
    ...keys.answers.map((key) => field('answers', key, labelFromKey(key))),
    ...keys.own.map((key) => field('own', key, labelFromKey(key))),
    ...Object.keys(RECORD_LABELS).map((key) => field('record', key)),
    ...[...memberLabels(catalogue.lists)].map(([key, label]) => field('member', key, label)),
    field('source', 'name'),
    ...Object.keys(WHERE_KEYS).map((key) => field('where', key)),
    ...TOUCH_GROUPS.flatMap((group) => Object.keys(TOUCH_KEYS).map((key) => field(group, key))),
    field('owner', 'name'),
  ];
}
