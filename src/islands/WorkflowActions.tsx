import { type ReactNode, useState } from 'react';
import { Popover } from '../components/Popover.tsx';
import { call, messageOf } from './call.ts';

type Props = { folders: string[]; children?: ReactNode } & (
  | { action: 'new' }
  | { action: 'row'; id: string; name: string; state: 'draft' | 'live' | 'paused' }
);

/** Makes a new workflow; or copies, pauses and resumes one from the list. */
export default function WorkflowActions(props: Props) {
  const [problem, setProblem] = useState('');
  const attempt = (work: Promise<unknown>, then: (made: { id: string }) => void) => {
    setProblem('');
    work.then(
      (made) => then(made as { id: string }),
      (error) => setProblem(messageOf(error)),
    );
  };
  const goTo = ({ id }: { id: string }) => location.assign(`/workflows/${id}`);
  if (props.action === 'row')
    return (
      <span className="flex justify-end gap-1">
        {problem && (
          <span className="text-xs text-error" role="alert">
            {problem}
          </span>
        )}
        {props.state !== 'draft' && (
          <button
            type="button"
            className="btn btn-plain btn-xs"
            aria-label={`${props.state === 'live' ? 'Pause' : 'Go on with'} ${props.name}`}
            onClick={() =>
              attempt(call('PUT', `/api/workflows/${props.id}/live`, { paused: props.state === 'live' }), () =>
                location.reload(),
              )
            }
          >
            {props.state === 'live' ? 'Pause' : 'Go on'}
          </button>
        )}
        <button
          type="button"
          className="btn btn-ghost btn-xs"
          aria-label={`Copy ${props.name}`}
          onClick={() => attempt(call('POST', `/api/workflows/${props.id}/copy`), goTo)}
        >
          Copy
        </button>
      </span>
    );
  return (
    <Popover button={props.children} buttonClass="btn btn-primary btn-sm" panelClass="w-72 p-3 text-left">
      {() => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const typed = new FormData(event.currentTarget);
            attempt(
              call('POST', '/api/workflows', { name: String(typed.get('name')), folder: String(typed.get('folder')) }),
              goTo,
            );
          }}
        >
          <label className="field-label" htmlFor="new-name">
            Name
          </label>
          <input
            className="input input-sm mb-2"
            id="new-name"
            name="name"
            required
            maxLength={120}
            placeholder="Trial lesson: first reply"
          />
          <label className="field-label" htmlFor="new-folder">
            Folder
          </label>
          <input className="input input-sm mb-3" id="new-folder" name="folder" maxLength={60} list="folders" />
          <datalist id="folders">
            {props.folders.filter(Boolean).map((folder) => (
              <option key={folder} value={folder} />
            ))}
          </datalist>
          {problem && (
            <p className="notice bad mb-2 text-[13px]" role="alert">
              {problem}
            </p>
          )}
          <button className="btn btn-primary btn-sm w-full" type="submit">
            Make this workflow
          </button>
        </form>
      )}
    </Popover>
  );
}
