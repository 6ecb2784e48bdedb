import { useState } from 'react';
import type { PracticeView } from '../../app/account/practice-world.ts';
import { call } from '../../client/call.ts';
import { comeAnew } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';

/** Switches the practice world on, or takes it away with everything it made. */
export default function PracticeTools({ practice }: { practice: PracticeView }) {
  const { act, busy, told } = useAction();
  const [sure, setSure] = useState(false);
  const go = (method: 'POST' | 'DELETE') =>
    void act(async () => {
      await (method === 'POST' ? call('POST', '/api/practice') : call('DELETE', '/api/practice'));
      await comeAnew();
    });
  const goes = [
    practice.people === 1
      ? 'one person who came by it'
      : `${practice.people} people who came by it, with their messages`,
    ...(practice.sources.length > 0 ? [practice.sources.map(({ name }) => `“${name}”`).join(', ')] : []),
  ];
  return (
    <>
      <Notice told={told} className="mb-3" />
      {!practice.on && (
        <button type="button" className="btn btn-plain btn-sm" disabled={busy} onClick={() => go('POST')}>
          {busy ? 'One moment …' : 'Switch the practice world on'}
        </button>
      )}
      {practice.on && !sure && (
        <p className="flex flex-wrap gap-2">
          {practice.url && (
            <a className="btn btn-plain btn-sm" href={practice.url} target="_blank" rel="noreferrer">
              Open the practice desk
            </a>
          )}
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setSure(true)}>
            Remove the practice world
          </button>
        </p>
      )}
      {practice.on && sure && (
        <div role="alert">
          <p className="mb-2">
            With it go {goes.join('; ')}. Workflows stay; those that listened only there are paused.
          </p>
          <p className="flex gap-2">
            <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={() => go('DELETE')}>
              Remove it with everything it made
            </button>
            <button type="button" className="btn btn-ghost btn-sm" onClick={() => setSure(false)}>
              Keep it
            </button>
          </p>
        </div>
      )}
    </>
  );
}
