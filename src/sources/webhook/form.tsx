import { useState } from 'react';
import { SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';

export default function WebhookForm({ create }: SourceFormProps) {
  const [name, setName] = useState('');
  const [signed, setSigned] = useState(false);
  return (
    <SetupForm
      button="Make an address for it"
      ready={name.trim() !== ''}
      create={create}
      input={() => ({ kind: 'webhook', name, signed })}
    >
      <label className="mb-3 block">
        <span className="field-label">Name of the source</span>
        <input
          className="input"
          value={name}
          required
          maxLength={100}
          placeholder="Open day sign-in"
          onChange={(event) => setName(event.target.value)}
        />
      </label>
      <label className="mb-3 flex items-start gap-2">
        <input
          type="checkbox"
          className="checkbox checkbox-sm mt-0.5"
          checked={signed}
          onChange={(event) => setSigned(event.target.checked)}
        />
        <span>
          Take only what is signed
          <span className="block text-note text-ink-2">
            The application must sign in the Standard Webhooks way. Without a signature, whoever knows the address can
            send.
          </span>
        </span>
      </label>
    </SetupForm>
  );
}
