import { useCallback, useState } from 'react';
import { ChoicePicker } from '../../components/ChoicePicker.tsx';
import { Line } from '../../components/fields.tsx';
import { ConnectionChoice, firstOf, OneOf, SetupForm } from '../../components/SetupForm.tsx';
import { type MailFilter, MailFilterFields } from '../mailbox/form.tsx';
import type { SourceFormProps } from '../source-form.ts';

type Afterwards = 'leave' | 'read' | 'move';

export default function MailAccountForm({ connections, choices, create }: SourceFormProps) {
  const [connection, setConnection] = useState(firstOf(connections, 'mail_account'));
  const [folder, setFolder] = useState('');
  const [filter, setFilter] = useState<MailFilter>({ sender: '', subject: '', text: '' });
  const [afterwards, setAfterwards] = useState<Afterwards>('leave');
  const [moveTo, setMoveTo] = useState('');
  const [from, setFrom] = useState<'new' | 'held'>('new');
  const load = useCallback(
    (q: string, after: string | null) => choices({ connection, of: 'folders', q, after }),
    [choices, connection],
  );
  return (
    <SetupForm
      button="Listen to this folder"
      ready={folder !== '' && (afterwards !== 'move' || moveTo.trim() !== '')}
      create={create}
      input={() => ({ kind: 'mail-account', connectionId: connection, folder, ...filter, afterwards, moveTo, from })}
    >
      <ConnectionChoice
        connections={connections}
        kind="mail_account"
        label="Mail account"
        value={connection}
        onChange={setConnection}
      />
      {connection !== '' && (
        <ChoicePicker
          label="Which folder"
          what={`folder of ${connection}`}
          load={load}
          chosen={folder ? [folder] : []}
          onChoose={({ id }) => setFolder(id)}
        />
      )}
      {folder !== '' && (
        <>
          <MailFilterFields value={filter} onChange={setFilter} />
          <OneOf
            label="Mails that are there already"
            value={from}
            options={[
              ['new', 'Stay there: only new ones come in'],
              ['held', 'Come in too'],
            ]}
            onChange={setFrom}
          />
          <OneOf<Afterwards>
            label="Once a mail has come in"
            value={afterwards}
            options={[
              ['leave', 'Leave it there as it is'],
              ['read', 'Mark it there as read'],
              ['move', 'Move it there to another folder'],
            ]}
            onChange={setAfterwards}
          />
          {afterwards === 'move' && (
            <Line
              label="To the folder"
              value={moveTo}
              maxLength={300}
              placeholder="Enquiries done"
              note="It is made where there is none of this name."
              onChange={setMoveTo}
            />
          )}
        </>
      )}
    </SetupForm>
  );
}
