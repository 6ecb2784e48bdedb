import { useState } from 'react';
import { GROUP_LABELS, writeReference } from '../core/template/field-reference.ts';
import type { PickableField } from './field-picker.ts';
import { Bare } from './fields.tsx';

/** Fields to put in, by their names; typed in, only those that fit are left. */
export function FieldMenu({ fields, onPick }: { fields: readonly PickableField[]; onPick: (text: string) => void }) {
  const [typed, setTyped] = useState('');
  const wanted = typed.trim().toLowerCase();
  const shown = fields.filter((field) => `${field.label} ${GROUP_LABELS[field.group]}`.toLowerCase().includes(wanted));
  if (fields.length === 0)
    return <p className="p-2 text-ink-2">Catch a sample lead first; then its fields stand here.</p>;
  return (
    <>
      {fields.length > 8 && <Bare tiny label="Find a field" className="mb-1" value={typed} onChange={setTyped} />}
      <ul>
        {shown.length === 0 && <li className="p-2 text-ink-2">None of that name.</li>}
        {shown.map((field) => (
          <li key={writeReference(field)}>
            <button
              type="button"
              className="w-full rounded px-2 py-1 text-left hover:bg-base-200"
              onClick={() => onPick(`{{ ${writeReference(field)} }}`)}
            >
              <span className="font-semibold text-primary">{field.label}</span>{' '}
              <span className="text-xs text-ink-2">{GROUP_LABELS[field.group]}</span>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
