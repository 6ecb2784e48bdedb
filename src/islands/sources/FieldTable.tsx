import type { LearntField } from '../../app/sources/arrivals.ts';
import { LEAD_FIELD_LABELS, LEAD_FIELDS, type LeadCard } from '../../core/source/lead-card.ts';

/** Every field this source has had, with what stood in it. */
export function FieldTable({ fields, card }: { fields: LearntField[]; card: LeadCard }) {
  const asWhat = (key: string) => {
    const as = LEAD_FIELDS.find((leadField) => card.fields[leadField] === key);
    if (as) return LEAD_FIELD_LABELS[as];
    if (card.consent.kind === 'field' && card.consent.key === key) return 'Consent';
    if (card.consent.kind === 'field' && card.consent.wordingKey === key) return 'Wording of the consent';
    return '';
  };
  return (
    <section className="sheet-card overflow-x-auto" aria-label="Fields">
      <table className="table table-sm">
        <thead>
          <tr>
            <th>Field</th>
            <th>In a message</th>
            <th>Is the lead's</th>
            <th className="text-right">Filled in</th>
            <th>For instance</th>
          </tr>
        </thead>
        <tbody>
          {fields.map((field) => (
            <tr key={field.key}>
              <td className="font-semibold">{field.label}</td>
              <td className="font-mono text-xs text-ink-2">{field.key}</td>
              <td>{asWhat(field.key) || <span className="text-ink-3">an answer</span>}</td>
              <td className="text-right whitespace-nowrap">
                {field.filled} of {field.of}
              </td>
              <td className="max-w-96 text-ink-2">
                <span className="line-clamp-2">{field.examples.join(' · ')}</span>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {fields.length === 0 && <p className="p-4 text-ink-2">Nothing has come in yet.</p>}
    </section>
  );
}
