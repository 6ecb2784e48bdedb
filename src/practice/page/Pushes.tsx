import { clock, type PushShown, post } from './desk-api.ts';

/** What a service has sent on, and what was answered. */
export function Pushes({ pushes, none }: { pushes: PushShown[]; none: string }) {
  return (
    <>
      <h3 className="mt-3 border-b border-base-300 pb-1 text-part">Sent on to</h3>
      {pushes.length === 0 && <p className="py-2 text-ink-2">{none}</p>}
      <ul data-testid="pushes">
        {pushes.slice(0, 6).map((push) => (
          <li key={push.id} className="flex items-center gap-3 border-b border-base-300 py-2 last:border-0">
            <time className="text-ink-2">{clock(push.at)}</time>
            <span className="font-semibold whitespace-nowrap">Pine Bell</span>
            <span className="min-w-0 grow truncate text-ink-2">{push.subject}</span>
            <span className="flex shrink-0 items-center gap-2">
              <PushResult push={push} />
              <button
                type="button"
                className="btn btn-plain btn-xs"
                onClick={() => void post(`/pushes/${push.id}/again`, {})}
              >
                Send again
              </button>
            </span>
          </li>
        ))}
      </ul>
    </>
  );
}

function PushResult({ push }: { push: PushShown }) {
  if (push.status === null) return <span className="pill bad">no answer</span>;
  if (push.status >= 300)
    return (
      <span className="pill bad" title={push.answer}>
        refused ({push.status})
      </span>
    );
  return (
    <span className="pill good">
      {push.answer.includes('"repeat":true') ? 'known already' : `accepted in ${push.ms} ms`}
    </span>
  );
}
