import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Modal } from '../../client/Modal.tsx';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { Line } from '../../components/fields.tsx';

/** The business as a whole: taken out as one file, or removed. */
export default function WholeBusiness({ name, days }: { name: string; days: number }) {
  const [removing, setRemoving] = useState(false);
  const { act, busy, told } = useAction();
  return (
    <section className="sheet-card mt-4 p-4" aria-label="The whole business">
      <h2 className="mb-1 text-part">The whole business</h2>
      <p className="mb-3 text-note text-ink-2">
        Everything there is of {name}, as one archive of open files: leads and sheets as tables, workflows, and every
        row as it is stored. Passwords and keys are not in it.
      </p>
      <div className="flex flex-wrap gap-2">
        <button
          type="button"
          className="btn btn-plain btn-sm"
          disabled={busy}
          onClick={() =>
            void act(async () => {
              const { from } = await call('POST', '/api/business/file');
              location.assign(within(from));
            }, 'It is being written. Your browser says when it is here.')
          }
        >
          Take everything out
        </button>
        <button type="button" className="btn btn-ghost btn-sm text-error" onClick={() => setRemoving(true)}>
          Remove this business…
        </button>
      </div>
      <Notice told={told} className="mt-3" />
      {removing && <RemoveDialog name={name} days={days} onClose={() => setRemoving(false)} />}
    </section>
  );
}

function RemoveDialog({ name, days, onClose }: { name: string; days: number; onClose: () => void }) {
  const [typed, setTyped] = useState('');
  const { act, busy, told } = useAction();
  return (
    <Modal label={`Remove ${name}`} className="w-[min(30rem,calc(100vw-2rem))]" onClose={onClose}>
      <form
        className="p-5"
        onSubmit={(event) => {
          event.preventDefault();
          void act(async () => {
            await call('DELETE', '/api/business', { name: typed });
            // In no business any more: the page of all of them has the way back.
            location.assign('/businesses');
          });
        }}
      >
        <h2 className="mb-2 text-lg">Remove {name}?</h2>
        <ul className="mb-3 list-disc pl-5 text-ink-2">
          <li>From now on nothing goes out, and nobody comes in.</li>
          <li>
            Whoever is on their way in a workflow is sent nothing more. What the sources bring is kept, and waits.
          </li>
          <li>
            For {days} days an owner can put it back, with its workflows and sources paused. Then all of it is gone.
          </li>
        </ul>
        <Line label={`Type “${name}”`} value={typed} onChange={setTyped} />
        <Notice told={told} className="my-3" />
        <div className="mt-3 flex justify-end gap-2">
          <button type="button" className="btn btn-ghost btn-sm" onClick={onClose}>
            Keep it
          </button>
          <button type="submit" className="btn btn-error btn-sm" disabled={busy || typed.trim() !== name.trim()}>
            Remove it
          </button>
        </div>
      </form>
    </Modal>
  );
}
