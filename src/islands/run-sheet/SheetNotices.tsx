import { lazy, Suspense } from 'react';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Doings } from './use-doings.ts';

// What is opened later is loaded then.
const ToldBar = lazy(() => import('./ToldBar.tsx').then((made) => ({ default: made.ToldBar })));
const PutLive = lazy(() => import('./PutLive.tsx').then((made) => ({ default: made.PutLive })));

interface Props {
  workflow: { id: string; nextVersion: number };
  draft: Definition;
  doings: Doings;
  /** What went wrong with saving; empty when nothing did. */
  problem: string;
  /** Putting live is being asked about. */
  goingLive: boolean;
  onGoingLive: (asked: boolean) => void;
  flush: () => Promise<void>;
}

/** What is asked before a sheet goes live, and what was told last. */
export function SheetNotices({ workflow, draft, doings, problem, goingLive, onGoingLive, flush }: Props) {
  const { told, forget, rehearsal, setRehearsal } = doings;
  const waits = draft.moments.some((moment) => moment.at.kind === 'event');
  return (
    <>
      {goingLive && (
        <Suspense>
          <PutLive
            workflowId={workflow.id}
            version={workflow.nextVersion}
            beforeAsking={flush}
            onGo={(moveOn) => {
              onGoingLive(false);
              void doings.putLive(moveOn);
            }}
            onClose={() => onGoingLive(false)}
          />
        </Suspense>
      )}
      {(told || problem) && (
        <Suspense>
          <ToldBar
            text={problem || told?.text || ''}
            good={Boolean(told?.good) && !problem}
            happens={rehearsal && !problem && waits ? rehearsal.happens : null}
            onOther={() => void doings.rehearse(!rehearsal?.happens)}
            onClose={() => {
              forget();
              setRehearsal(null);
            }}
          />
        </Suspense>
      )}
    </>
  );
}
