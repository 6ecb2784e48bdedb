import { useCallback, useState } from 'react';
import { Line } from '../../components/fields.tsx';
import { ConnectionChoice, firstOf, SetupForm } from '../../components/SetupForm.tsx';
import type { SourceFormProps } from '../source-form.ts';
import { ListenFields } from './listen-fields.tsx';
import type { ChatMessageSettings, ChatWhen } from './listening.ts';

const NAMES: Record<ChatWhen, string> = {
  any: 'Chat',
  first: 'First hello in chat',
  words: 'Chat with certain words',
  button: 'Button tapped in chat',
  form: 'Form completed in chat',
};

export default function ChatMessageForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'chat_network'));
  const [name, setName] = useState('');
  const [listen, setListen] = useState<Pick<ChatMessageSettings, 'when' | 'words' | 'form'>>({
    ...{ when: 'first', words: '', form: '' },
  });
  const forms = useCallback(() => choices({ connection, of: 'forms' }), [choices, connection]);
  return (
    <SetupForm
      button="Listen to this"
      ready={connection !== '' && (listen.when !== 'words' || listen.words.trim() !== '')}
      create={create}
      input={() => ({
        ...{ kind: 'chat-message', connectionId: connection, name: name.trim() || NAMES[listen.when] },
        ...listen,
      })}
    >
      <ConnectionChoice
        connections={connections}
        kind="chat_network"
        label="Chat network"
        value={connection}
        onChange={setConnection}
      />
      {connection !== '' && (
        <>
          <ListenFields settings={listen} forms={forms} onChange={(patch) => setListen({ ...listen, ...patch })} />
          <Line
            label="Name of the source"
            value={name}
            maxLength={100}
            placeholder={NAMES[listen.when]}
            onChange={setName}
          />
        </>
      )}
    </SetupForm>
  );
}
