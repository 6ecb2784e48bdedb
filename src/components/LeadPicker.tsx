import { useState } from 'react';
import { call } from '../client/call.ts';
import { ToldLine } from '../client/Notice.tsx';
import { useDebounced } from '../client/use-debounced.ts';
import { useQuery } from '../client/use-query.ts';
import { Line } from './fields.tsx';

export interface PickedLead {
  id: string;
  name: string;
  email: string;
  phone: string;
}

/** Finds a lead by name, email or number while it is typed. */
export function LeadPicker({
  label,
  value,
  onChange,
}: {
  label: string;
  value: PickedLead | null;
  onChange: (lead: PickedLead | null) => void;
}) {
  const [search, setSearch] = useState('');
  const typed = useDebounced(search.trim());
  const asked = useQuery(
    ['leads', typed],
    async () =>
      typed.length < 2 ? [] : (await call('GET', `/api/leads?search=${encodeURIComponent(typed)}`)).rows.slice(0, 6),
    { first: [], at: 0, live: false },
  );
  const found: PickedLead[] = search.trim() === typed ? asked.value : [];
  if (value)
    return (
      <p className="mb-3">
        <span className="field-label">{label}</span>
        <span className="font-semibold">{value.name}</span>{' '}
        <button type="button" className="link text-note" onClick={() => onChange(null)}>
          Another
        </button>
      </p>
    );
  return (
    <div className="mb-3">
      <Line
        label={label}
        block="block"
        small
        value={search}
        placeholder="Name, phone or email"
        maxLength={2000}
        onChange={setSearch}
      />
      <ToldLine told={asked.problem ? { text: asked.problem, good: false } : null} />
      {found.map((lead) => (
        <button
          key={lead.id}
          type="button"
          className="mt-1 block w-full rounded px-2 py-1 text-left text-note hover:bg-base-200"
          onClick={() => {
            onChange(lead);
            setSearch('');
          }}
        >
          <span className="font-semibold">{lead.name}</span> {lead.email || lead.phone}
        </button>
      ))}
    </div>
  );
}
