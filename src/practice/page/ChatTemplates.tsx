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
      {desk.chatTemplates.toReversed().map((one) => (
        <li key={one.id} className="rounded-lg border border-base-300 p-3">
          <p className="flex flex-wrap items-center gap-2">
            <span className="font-semibold">{one.name}</span>
            <span className="text-note text-ink-2">
              {one.kind}, {STATES[one.state]}
              {one.reason && `: ${one.reason}`}
            </span>
          </p>
          <p className="my-1 text-note break-words whitespace-pre-line">
            {[one.heading, one.text, one.closing].filter(Boolean).join('\n')}
          </p>
          <div className="flex gap-1">
            {one.state !== 'approved' && (
              <button type="button" className="btn btn-plain btn-xs" onClick={() => decide(one.id, 'approved', '')}>
                Approve it
              </button>
            )}
            {one.state !== 'refused' && one.state !== 'withdrawn' && (
              <button
                type="button"
                className="btn btn-plain btn-xs"
                onClick={() =>
                  decide(
                    one.id,
                    one.state === 'approved' ? 'withdrawn' : 'refused',
                    one.state === 'approved'
                      ? 'Too many people have complained.'
                      : 'It says too little about who writes.',
                  )
                }
              >
                {one.state === 'approved' ? 'Withdraw it' : 'Refuse it'}
              </button>
            )}
          </div>
        </li>
      ))}
    </ul>
  );
}
