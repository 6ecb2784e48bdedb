import { z } from 'zod';
import { labelFromKey } from '../../core/fields/field.ts';
import { LEAD_FIELD_LABELS } from '../../core/source/lead-card.ts';
import { readReference, writeReference } from '../../core/template/field-reference.ts';
import { renderTemplate } from '../../core/template/template.ts';
import { machineScope } from '../../core/workflow/run-context.ts';
import type { StepKind } from '../../core/workflow/step-kind.ts';

const Settings = z.object({
  /** "lead.first_name", "answers.instrument" for an answer of the source, "own.level" for a field of the business's own. */
  field: z.string().max(200),
  value: z.string().max(5000),
  /** What an empty value does: leaves the field as it was, or clears it. */
  empty: z.enum(['keep', 'clear']).default('keep'),
});
export type FieldSettings = z.infer<typeof Settings>;
export type FieldDone = { reference: string; value: string };

const PERSON = ['first_name', 'last_name', 'email', 'phone'];
const labelOf = (reference: string) => {
  const read = readReference(reference);
  if (!read) return 'a field';
  return read.group === 'lead'
    ? ((LEAD_FIELD_LABELS as Record<string, string>)[read.key] ?? read.key)
    : labelFromKey(read.key);
};

/** Writes a value into a field of the lead. */
export const field: StepKind<FieldSettings> = {
  kind: 'field',
  label: 'Set a field of the lead',
  icon: 'pencil-line',
  places: ['first', 'record'],
  settings: Settings,
  blank: () => ({ field: '', value: '', empty: 'keep' }),
  card: ({ field, value, empty }) => ({
    title: field ? `${value === '' && empty === 'clear' ? 'Clear' : 'Set'} ${labelOf(field)}` : 'Set a field',
    line: value,
  }),
  aloud: ({ field }) => `set ${field ? labelOf(field) : 'a field'} on their record`,
  check: ({ field, value, empty }) => {
    const read = readReference(field);
    const known =
      read?.group === 'own' || read?.group === 'answers' || (read?.group === 'lead' && PERSON.includes(read.key));
    if (!known) return [{ weight: 'must', code: 'empty', text: 'Set a field: choose which.', field: 'field' }];
    if (value.trim() !== '' || empty === 'clear') return [];
    const text = `Set ${labelOf(field)}: no value is given, so nothing is done. Give one, or say that it is to be cleared.`;
    return [{ weight: 'look', code: 'empty', text, field: 'value' }];
  },
  gives: ({ field }) => {
    const read = readReference(field);
    return read?.group === 'own' ? [{ group: 'own', key: read.key, label: labelFromKey(read.key) }] : [];
  },
  templates: ({ value }) => [{ field: 'value', source: value }],
  plan: ({ field, value, empty }, { context, now }) => {
    const read = readReference(field);
    if (!read) return { does: 'ask', why: { code: 'gone', text: 'No field is chosen' } };
    const rendered = renderTemplate(value, machineScope(context, now));
    if (!rendered.ok) return { does: 'ask', why: { code: 'template', text: rendered.problem.text } };
    const written = rendered.text.trim().slice(0, 20_000);
    if (written === '' && empty === 'keep')
      return { does: 'nothing', why: { code: 'empty', text: `${labelOf(field)} left as it was: the value is empty` } };
    const what: FieldDone = { reference: writeReference(read), value: written };
    return {
      does: 'record',
      words: written === '' ? `${labelOf(field)}: cleared` : `${labelOf(field)}: ${written}`,
      what,
      sets: [what],
    };
  },
};
