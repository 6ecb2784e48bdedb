import { useState } from 'react';
import { AddressPanel } from '../../components/AddressPanel.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import { type MailFilter, MailFilterFields } from './form.tsx';

export default function MailboxPanel({ source, change, ask, practiceUrl }: SourcePanelProps) {
  const { sender = '', subject = '', text = '' } = source.settings as Partial<MailFilter>;
  const saved = { sender, subject, text };
  const [filter, setFilter] = useState<MailFilter>(saved);
  const changed = JSON.stringify(filter) !== JSON.stringify(saved);
  return (
    <AddressPanel
      source={source}
      ask={ask}
      about={`Forward mails to this address: a rule in your mail program is enough.${practiceUrl && source.arrivals === 0 ? ' At the practice desk, under Mailboxes, you can write one.' : ''}`}
    >
      <details className="mb-2" open={changed}>
        <summary className="cursor-pointer text-note text-ink-2">Which mails count</summary>
        <div className="mt-2">
          <MailFilterFields value={filter} onChange={setFilter} />
          <button
            type="button"
            className="btn btn-plain btn-sm"
            disabled={!changed}
            onClick={() => void change(filter)}
          >
            Take these from now on
          </button>
        </div>
      </details>
    </AddressPanel>
  );
}
