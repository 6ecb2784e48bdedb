import { useState } from 'react';
import { Line } from '../../components/fields.tsx';
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
      <Line
        label="Name of the import"
        value={name}
        maxLength={100}
        placeholder="Old customers, 2024"
        onChange={setName}
      />
    </SetupForm>
  );
}
