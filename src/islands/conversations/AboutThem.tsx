import ChevronLeft from 'lucide-react/icons/chevron-left';
import type { ConversationView } from '../../app/conversations/get-conversation.ts';
import { within } from '../../client/within.ts';
import { Choice } from '../../components/fields.tsx';
import { phoneWords } from '../../core/people/phone.ts';
import { type Place, whenWords } from '../../core/words/instant.ts';

/** Who they are, who looks after the conversation, and whether workflows go on meanwhile. */
export function AboutThem({
  view,
  me,
  colleagues,
  changes,
  change,
  place,
  back,
}: {
  view: ConversationView;
  /** Leads back to what was written, where there is room for one of them only and this is it. */
  back: (() => void) | null;
  me: string;
  colleagues: { id: string; name: string }[];
  changes: boolean;
  change: (patch: object) => Promise<void>;
  place: Place;
  now: number;
}) {
  const mine = view.takenBy?.id === me;
  return (
    <aside
      className={`overflow-y-auto border-l border-base-300 bg-base-100 p-4 ${back ? '' : 'max-lg:hidden'}`}
      aria-label="About them"
    >
      {back && (
        <button type="button" className="btn btn-plain btn-sm mb-3 lg:hidden" onClick={back}>
          <ChevronLeft className="size-4" aria-hidden="true" />
          What was written
        </button>
      )}
      <h2 className="text-part">
        {view.leadId ? (
          <a className="hover:underline" href={within(`/leads/${view.leadId}`)}>
            {view.name}
          </a>
        ) : (
          view.name
        )}
      </h2>
      <p className="text-note text-ink-2">
        {phoneWords(view.phone)}
        {view.email && <span className="block">{view.email}</span>}
        {view.owner && <span className="block">{view.owner} looks after them</span>}
      </p>
      {view.tags.length > 0 && (
        <p className="mt-1">
          {view.tags.map((tag) => (
            <span key={tag} className="pill mr-1">
              {tag}
            </span>
          ))}
        </p>
      )}
      {!view.leadId && (
        <p className="notice mt-3 text-note">
          Nobody of this number is known. They become a lead when they ring in by a source.
        </p>
      )}
      <h3 className="mt-4 mb-1 font-sans text-note font-semibold text-ink-2">May we write?</h3>
      <ul className="text-note" data-testid="ways">
        {view.ways.map((way) => (
          <li key={way.channel} className="border-b border-base-300 py-1.5">
            <span className="flex justify-between">
              <span className="capitalize">{way.channel}</span>
              <span className={`pill ${way.can ? 'good' : way.byTemplate ? 'warn' : 'bad'}`}>
                {way.can ? 'Yes' : way.byTemplate ? 'By template' : 'Not now'}
              </span>
            </span>
            {way.channel === 'chat' && view.chatOpenUntil ? (
              <span className="block text-ink-2">
                Free messages until {whenWords(view.chatOpenUntil, Date.now(), place)}
                {way.words && `. ${way.words}`}
              </span>
            ) : (
              way.words && <span className="block text-ink-2">{way.words}</span>
            )}
          </li>
        ))}
      </ul>
      {changes && (
        <div className="mt-4">
          <Choice
            label="Who is to answer"
            value={view.assignee?.id ?? ''}
            options={[
              ['', 'Whoever is free'],
              ...colleagues.map((colleague) => [colleague.id, colleague.name] as const),
            ]}
            onChange={(id) => void change({ assigneeId: id || null })}
          />
          {view.leadId && (
            <div className="rounded-lg bg-base-200 p-3 text-note" data-testid="take-over">
              {view.takenBy ? (
                <>
                  <p className="mb-2">
                    {mine ? 'You have' : `${view.takenBy.name} has`} taken over.{' '}
                    {view.held === 0
                      ? 'No workflow was under way.'
                      : `${view.held} ${view.held === 1 ? 'workflow waits' : 'workflows wait'} until it is handed back.`}
                  </p>
                  <button
                    type="button"
                    className="btn btn-plain btn-sm w-full"
                    onClick={() => void change({ taken: false })}
                  >
                    Hand back to the workflows
                  </button>
                </>
              ) : (
                <>
                  <p className="mb-2">
                    {view.underWay === 0
                      ? 'No workflow is under way with them.'
                      : `${view.underWay} ${view.underWay === 1 ? 'workflow is' : 'workflows are'} under way with them and will write by ${view.underWay === 1 ? 'itself' : 'themselves'}.`}
                  </p>
                  <button
                    type="button"
                    className="btn btn-primary btn-sm w-full"
                    onClick={() => void change({ taken: true })}
                  >
                    Take over
                  </button>
                </>
              )}
            </div>
          )}
          {view.unread === 0 && (
            <button type="button" className="btn btn-ghost btn-sm mt-2" onClick={() => void change({ unread: true })}>
              Mark as unread
            </button>
          )}
        </div>
      )}
    </aside>
  );
}
