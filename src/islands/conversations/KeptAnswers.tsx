import { useState } from 'react';
import type { ConversationView } from '../../app/conversations/get-conversation.ts';
import { call, messageOf } from '../../client/call.ts';
import { Bare } from '../../components/fields.tsx';
import { Popover } from '../../components/Popover.tsx';
import { forAnybody } from './for-anybody.ts';

/** Answers written beforehand; and what is written now, kept for next time. */
export function KeptAnswers({
  view,
  text,
  put,
  kept,
  failed,
}: {
  view: ConversationView;
  text: string;
  put: (text: string) => void;
  kept: () => Promise<void>;
  failed: (problem: string) => void;
}) {
  const [name, setName] = useState('');
  const keep = async () => {
    try {
      await call('POST', '/api/canned-answers', { name, text: forAnybody(text, view.firstName) });
      setName('');
      await kept();
    } catch (error) {
      failed(messageOf(error));
    }
  };
  return (
    <Popover
      button="Answers kept"
      buttonClass="btn btn-ghost btn-sm"
      panelClass="max-h-80 w-80 p-2"
      placement="top-end"
    >
      {(close) => (
        <>
          {view.answers.map((answer) => (
            <button
              key={answer.id}
              type="button"
              className="block w-full rounded px-2 py-1.5 text-left hover:bg-base-200"
              onClick={() => {
                put(answer.text);
                close();
              }}
            >
              <span className="block font-semibold">{answer.name}</span>
              <span className="block truncate text-note text-ink-2">{answer.text}</span>
            </button>
          ))}
          {view.answers.length === 0 && (
            <p className="px-2 py-1 text-note text-ink-2">None yet. What you write below can be kept for next time.</p>
          )}
          <div className="mt-2 flex gap-1 border-t border-base-300 pt-2">
            <Bare
              label="Name of the answer to keep"
              placeholder="Name"
              maxLength={60}
              value={name}
              onChange={setName}
            />
            <button
              type="button"
              className="btn btn-plain btn-sm"
              disabled={name.trim() === '' || text.trim() === ''}
              onClick={() => void keep()}
            >
              Keep what I wrote
            </button>
          </div>
          {forAnybody(text, view.firstName) !== text && (
            <p className="mt-1 px-1 text-xs text-ink-2">
              “{view.firstName}” becomes the first name of whoever it is written to.
            </p>
          )}
        </>
      )}
    </Popover>
  );
}
