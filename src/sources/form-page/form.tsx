import { useState } from 'react';
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
      <label className="mb-3 block">
        <span className="field-label">Title of the page, as visitors read it</span>
        <input
          className="input"
          value={title}
          maxLength={200}
          placeholder="Book a free trial lesson"
          onChange={(event) => setTitle(event.target.value)}
        />
        <span className="block text-note text-ink-2">
          It begins with name, email, phone and a consent; you change all of it on the next page.
        </span>
      </label>
    </SetupForm>
  );
}
