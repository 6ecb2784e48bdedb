import NotebookPen from 'lucide-react/icons/notebook-pen';
import { useEffect, useRef } from 'react';
import type { ConversationView } from '../../app/conversations/get-conversation.ts';
import type { ThreadItem } from '../../app/conversations/thread.ts';
import { within } from '../../client/within.ts';
import { ChannelIcon } from '../../components/ChannelIcon.tsx';
import { exactWords, type Place, whenWords } from '../../core/words/instant.ts';

const STATES: Record<string, string> = {
  sending: 'on its way',
  accepted: 'sent',
  delivered: 'delivered',
  read: 'read',
  refused: 'not sent',
  undelivered: 'not delivered',
  unsure: 'may have gone out',
  unknown: 'perhaps sent',
};

/**
 * Everything written both ways, oldest first, with what colleagues noted in between. `opensRuns` says whether whoever reads may look at the workflow that
 * wrote.
 */
export function Thread({ view, place, opensRuns }: { view: ConversationView; place: Place; opensRuns: boolean }) {
  const end = useRef<HTMLDivElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: goes to the end when there is something new
  useEffect(() => {
    end.current?.scrollIntoView({ block: 'nearest' });
  }, [view.items.length]);
  return (
    <div className="min-h-0 grow overflow-y-auto p-4" role="log" aria-label={`Conversation with ${view.name}`}>
      {view.items.map((item, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: what was written keeps its place
        <Item key={i} item={item} place={place} opensRuns={opensRuns} />
      ))}
      {view.typing && (
        <p className="text-note text-ink-2" role="status">
          {view.typing} is writing an answer …
        </p>
      )}
      <div ref={end} />
    </div>
  );
}

function Item({ item, place, opensRuns }: { item: ThreadItem; place: Place; opensRuns: boolean }) {
  const time = (
    <time dateTime={item.at} title={exactWords(item.at, place)}>
      {whenWords(item.at, Date.now(), place)}
    </time>
  );
  if (item.kind === 'note')
    return (
      <div className="mx-auto mb-3 max-w-[70%] rounded-lg border border-brass-line bg-brass-soft px-3 py-2 text-note">
        <p className="flex items-center gap-1.5 text-xs text-ink-2">
          <NotebookPen className="size-3.5" aria-hidden="true" />
          Note{item.by && ` by ${item.by}`}, {time}
        </p>
        <p className="break-words whitespace-pre-line">{item.text}</p>
      </div>
    );
  const out = item.kind === 'out';
  const bad = item.state === 'refused' || item.state === 'undelivered' || item.state === 'unsure';
  return (
    <div className={`mb-3 max-w-[78%] ${out ? 'ml-auto' : ''}`}>
      <div
        dir="auto"
        className={`w-fit rounded-2xl px-3 py-2 break-words whitespace-pre-line ${out ? 'ml-auto rounded-br-sm bg-pine-soft' : 'rounded-bl-sm bg-base-100'} ${bad ? 'outline outline-error' : ''}`}
      >
        {item.subject && <p className="font-semibold">{item.subject}</p>}
        {item.text}
        {item.offers.map((offer) => (
          <span
            key={offer}
            className="mt-1.5 block rounded-lg border border-pine-line px-2 py-0.5 text-center text-note"
          >
            {offer}
          </span>
        ))}
      </div>
      <p className={`mt-0.5 flex items-center gap-1.5 text-xs text-ink-2 ${out ? 'justify-end' : ''}`}>
        {item.channel && <ChannelIcon channel={item.channel} />}
        {time}
        {out && item.by && (
          <span>
            by{' '}
            {opensRuns && item.workflowId && item.runId ? (
              <a className="hover:underline" href={within(`/workflows/${item.workflowId}/log?run=${item.runId}`)}>
                {item.by}
              </a>
            ) : (
              item.by
            )}
          </span>
        )}
        {!out && item.detail && <span className="text-warning">{item.detail}</span>}
        {out && <span className={bad ? 'text-error' : ''}>{STATES[item.state] ?? item.state}</span>}
      </p>
      {bad && <p className="text-right text-xs text-error">{item.detail}</p>}
    </div>
  );
}
