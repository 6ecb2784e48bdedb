import { useState } from 'react';
import { SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function ImportForm({ create }: SourceFormProps) {
  const [name, setName] = useState('');
  return (
    <SetupForm
      button="Go on to the file"
      ready={name.trim() !== ''}
      create={create}
      input={() => ({ kind: 'import', name })}
    >
      <label className="mb-3 block">
        <span className="field-label">Name of the import</span>
        <input
          className="input"
          value={name}
          maxLength={100}
          placeholder="Old customers, 2024"
          onChange={(event) => setName(event.target.value)}
        />
      </label>
    </SetupForm>
  );
}
