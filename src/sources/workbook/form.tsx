import { useState } from 'react';
import { Line } from '../../components/fields.tsx';
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
      <Line label="Name of the source" value={name} maxLength={100} placeholder="Fair contacts" onChange={setName} />
    </SetupForm>
  );
}
