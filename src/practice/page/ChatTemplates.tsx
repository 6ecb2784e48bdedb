import { type DeskState, post } from './desk-api.ts';

const STATES = { waiting: 'being reviewed', approved: 'approved', refused: 'refused', withdrawn: 'withdrawn' };

/** The reviewer's desk of the chat network: templates as they were handed in, and the word on each. */
export function ChatTemplates({ desk }: { desk: DeskState }) {
  const decide = (id: string, state: string, reason: string) => void post(`/chat-templates/${id}/${state}`, { reason });
  if (desk.chatTemplates.length === 0)
    return (
      <p className="text-ink-2">None yet. What Pine Bell sends for review stands here; it takes about a second.</p>
    );
  return (
    <ul className="grid gap-2">
      {desk.chatTemplates.toReversed().map((chatTemplate) => (
        <li key={chatTemplate.id} className="rounded-lg border border-base-300 p-3">
          <p className="flex flex-wrap items-center gap-2">
            <span className="font-semibold">{chatTemplate.name}</span>
            <span className="text-note text-ink-2">
              {chatTemplate.kind}, {STATES[chatTemplate.state]}
              {chatTemplate.reason && `: ${chatTemplate.reason}`}
            </span>
          </p>
          <p className="my-1 text-note break-words whitespace-pre-line">
            {[chatTemplate.heading, chatTemplate.text, chatTemplate.closing].filter(Boolean).join('\n')}
          </p>
          <div className="flex gap-1">
            {chatTemplate.state !== 'approved' && (
              <button
                type="button"
                className="btn btn-plain btn-xs"
                onClick={() => decide(chatTemplate.id, 'approved', '')}
              >
                Approve it
              </button>
            )}
            {chatTemplate.state !== 'refused' && chatTemplate.state !== 'withdrawn' && (
              <button
                type="button"
                className="btn btn-plain btn-xs"
                onClick={() =>
                  decide(
                    chatTemplate.id,
                    chatTemplate.state === 'approved' ? 'withdrawn' : 'refused',
                    chatTemplate.state === 'approved'
                      ? 'Too many people have complained.'
                      : 'It says too little about who writes.',
                  )
                }
              >
                {chatTemplate.state === 'approved' ? 'Withdraw it' : 'Refuse it'}
              </button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}
