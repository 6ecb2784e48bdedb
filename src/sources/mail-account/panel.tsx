import { useState } from 'react';
import { FirstOne } from '../../components/FirstOne.tsx';
import { type MailFilter, MailFilterFields } from '../mailbox/form.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import type { MailAccountSettings } from './definition.ts';

const AFTERWARDS: Record<MailAccountSettings['afterwards'], (moveTo: string) => string> = {
  leave: () => 'A mail stays there as it is.',
  read: () => 'A mail that has come in is marked there as read.',
  move: (moveTo) => `A mail that has come in is moved there to “${moveTo}”.`,
};

export default function MailAccountPanel({ source, change }: SourcePanelProps) {
  const { folder, sender, subject, text, afterwards, moveTo } = source.settings as MailAccountSettings;
  const saved = { sender, subject, text };
  const [filter, setFilter] = useState<MailFilter>(saved);
  const changed = JSON.stringify(filter) !== JSON.stringify(saved);
  return (
    <>
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={null}>Fetch the newest mail to see what it brings, or wait for a new one.</FirstOne>
      )}
      <section className="sheet-card mb-4 p-4">
        <h2 className="mb-1 text-part">The folder</h2>
        <p className="mb-2">
          New mails in <strong>{folder}</strong>, as soon as the mail server says so. {AFTERWARDS[afterwards](moveTo)}
        </p>
        <details open={changed}>
          <summary className="cursor-pointer text-note text-ink-2">Which mails come in</summary>
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
      </section>
    </>
  );
}
