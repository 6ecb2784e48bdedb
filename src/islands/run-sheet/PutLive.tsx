import { useEffect, useState } from 'react';
import type { UnderWay } from '../../app/workflows/live.ts';
import { call, messageOf } from '../../client/call.ts';

/** Asks, before a version goes live, what happens to leads under way; goes straight on when there are none. */
export function PutLive({
  workflowId,
  version,
  beforeAsking,
  onGo,
  onClose,
}: {
  workflowId: string;
  version: number;
  /** Stores what was typed. */
  beforeAsking: () => Promise<void>;
  onGo: (moveOn: boolean) => void;
  onClose: () => void;
}) {
  const [there, setThere] = useState<UnderWay | null>(null);
  const [problem, setProblem] = useState('');
  // biome-ignore lint/correctness/useExhaustiveDependencies: asked once, when it opens
  useEffect(() => {
    let closed = false;
    beforeAsking()
      .then(() => call('GET', `/api/workflows/${workflowId}/live`))
      .then(
        (found) => {
          if (closed) return;
          if (found.canMove === 0) onGo(false);
          else setThere(found);
        },
        (error) => setProblem(messageOf(error)),
      );
    return () => {
      closed = true;
    };
  }, []);
  if (!there && !problem) return null;
  return (
    <div className="notice mx-4 my-2 flex flex-wrap items-center gap-2" role="alert" data-testid="put-live">
      <span className="grow">
        {problem ||
          `${there!.count} ${there!.count === 1 ? 'lead is' : 'leads are'} under way. ${there!.canMove} of them ${there!.canMove === 1 ? 'waits' : 'wait'} for a moment that version ${version} has too.`}
      </span>
      {there && (
        <>
          <button type="button" className="btn btn-primary btn-sm" onClick={() => onGo(false)}>
            Let them finish as they began
          </button>
          <button type="button" className="btn btn-plain btn-sm" onClick={() => onGo(true)}>
            Move {there.canMove} on to version {version}
          </button>
        </>
      )}
      <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
        Not yet
      </button>
    </div>
  );
}
