import { useState } from 'react';
import { SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function WorkbookForm({ create }: SourceFormProps) {
  const [name, setName] = useState('');
  return (
    <SetupForm
      button="Make a place for the file"
      ready={name.trim() !== ''}
      create={create}
      input={() => ({ kind: 'workbook', name })}
    >
      <label className="mb-3 block">
        <span className="field-label">Name of the source</span>
        <input
          className="input"
          value={name}
          maxLength={100}
          placeholder="Fair contacts"
          onChange={(event) => setName(event.target.value)}
        />
      </label>
    </SetupForm>
  );
}
