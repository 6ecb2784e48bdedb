import { useState } from 'react';
import { Line } from '../../components/fields.tsx';
import { SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function FormPageForm({ create }: SourceFormProps) {
  const [title, setTitle] = useState('');
  return (
    <SetupForm
      button="Make the page"
      ready={title.trim() !== ''}
      create={create}
      input={() => ({ kind: 'form-page', title })}
    >
      <Line
        label="Title of the page, as visitors read it"
        value={title}
        maxLength={200}
        placeholder="Book a free trial lesson"
        onChange={setTitle}
        note="It begins with name, email, phone and a consent; you change all of it on the next page."
      />
    </SetupForm>
  );
}
