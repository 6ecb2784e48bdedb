import { useState } from 'react';
import { Line } from '../../components/fields.tsx';
import { SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

const PARTS = [
  { key: 'sender', label: 'the sender contains' },
  { key: 'subject', label: 'the subject contains' },
  { key: 'text', label: 'the text contains' },
] as const;
export type MailFilter = Record<(typeof PARTS)[number]['key'], string>;

export function MailFilterFields({ value, onChange }: { value: MailFilter; onChange: (value: MailFilter) => void }) {
  return (
    <fieldset className="mb-3">
      <legend className="field-label">Only mails where (leave empty for any)</legend>
      {PARTS.map(({ key, label }) => (
        <label key={key} className="mb-1 flex items-center gap-2">
          <span className="w-44 shrink-0">{label}</span>
          <input
            className="input input-sm"
            value={value[key]}
            maxLength={200}
            onChange={(event) => onChange({ ...value, [key]: event.target.value })}
          />
        </label>
      ))}
    </fieldset>
  );
}

export default function MailboxForm({ create }: SourceFormProps) {
  const [name, setName] = useState('');
  const [filter, setFilter] = useState<MailFilter>({ sender: '', subject: '', text: '' });
  return (
    <SetupForm
      button="Make a mail address for it"
      ready={name.trim() !== ''}
      create={create}
      input={() => ({ kind: 'mailbox', name, ...filter })}
    >
      <Line
        label="Name of the source"
        value={name}
        maxLength={100}
        placeholder="Website enquiries"
        onChange={setName}
      />
      <MailFilterFields value={filter} onChange={setFilter} />
    </SetupForm>
  );
}
