import { useState } from 'react';
import { Line, Tick } from '../../components/fields.tsx';
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
      <Line
        label="Name of the source"
        value={name}
        required
        maxLength={100}
        placeholder="Open day sign-in"
        onChange={setName}
      />
      <Tick
        label="Take only what is signed"
        value={signed}
        onChange={setSigned}
        note="The application must sign in the Standard Webhooks way. Without a signature, whoever knows the address can send."
      />
    </SetupForm>
  );
}
