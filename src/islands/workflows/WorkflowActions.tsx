import type { ReactNode } from 'react';
import { call } from '../../client/call.ts';
import { comeAnew, goTo } from '../../client/go-to.ts';
import { Notice, ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';
import { Popover } from '../../components/Popover.tsx';

type Props = { folders: string[]; children?: ReactNode } & (
  | { action: 'new' }
  | { action: 'row'; id: string; name: string; state: 'draft' | 'live' | 'paused' }
);

/** Makes a new workflow; or copies, pauses and resumes one from the list. */
export default function WorkflowActions(props: Props) {
  const { act, busy, told } = useAction();
  const make = (making: () => Promise<{ id: string }>) => act(async () => goTo(`/workflows/${(await making()).id}`));
  if (props.action === 'row')
    return (
      <span className="flex justify-end gap-1">
        <ToldLine told={told} />
        {props.state !== 'draft' && (
          <button
            type="button"
            className="btn btn-plain btn-xs"
            aria-label={`${props.state === 'live' ? 'Pause' : 'Go on with'} ${props.name}`}
            onClick={() =>
              void act(async () => {
                await call('PUT', `/api/workflows/${props.id}/live`, { paused: props.state === 'live' });
                await comeAnew();
              })
            }
          >
            {props.state === 'live' ? 'Pause' : 'Go on'}
          </button>
        )}
        <button
          type="button"
          className="btn btn-ghost btn-xs max-sm:hidden"
          aria-label={`Copy ${props.name}`}
          disabled={busy}
          onClick={() => void make(() => call('POST', `/api/workflows/${props.id}/copy`))}
        >
          Copy
        </button>
        <a
          className="btn btn-ghost btn-xs max-sm:hidden"
          aria-label={`Share ${props.name} as a file`}
          href={within(`/api/workflows/${props.id}/share`)}
          download
        >
          Share
        </a>
      </span>
    );
  return (
    <Popover button={props.children} buttonClass="btn btn-primary btn-sm" panelClass="w-72 p-3 text-left">
      {() => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            const typed = new FormData(event.currentTarget);
            void make(() =>
              call('POST', '/api/workflows', { name: String(typed.get('name')), folder: String(typed.get('folder')) }),
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
          <Notice told={told} className="mb-2 text-note" />
          <button className="btn btn-primary btn-sm w-full" type="submit" disabled={busy}>
            Make this workflow
          </button>
        </form>
      )}
    </Popover>
  );
}
