import { callAny } from '../client/call.ts';
import { goTo } from '../client/go-to.ts';
import { useAction } from '../client/use-action.ts';
import { Popover } from './Popover.tsx';

/** Codes of what a person may agree to. */
const MAY_AGREE = ['under-way'];

/** Removes a thing of the business, after saying what stays and, where something still uses it, what does. */
export default function RemoveButton({
  what,
  name,
  stays,
  path,
  to,
  size,
}: {
  /** "source" */
  what: string;
  name: string;
  /** What is kept, a sentence. */
  stays: string;
  path: string;
  /** Where to go afterwards. */
  to: string;
  /** In a row of several: only "Remove", of this size. */
  size?: 'xs' | 'sm';
}) {
  const { act, busy, told } = useAction();
  const agreed = told !== null && MAY_AGREE.includes(told.code);
  const remove = () =>
    act(async () => {
      await callAny('DELETE', `${path}${agreed ? '?agreed=1' : ''}`);
      await goTo(to);
    });
  return (
    <Popover
      button={size ? 'Remove' : `Remove this ${what}`}
      buttonClass={`btn btn-ghost ${size === 'xs' ? 'btn-xs' : 'btn-sm'}`}
      {...(size ? { label: `Remove ${name}` } : {})}
      panelClass="w-80 p-3 text-left text-note"
    >
      {(close) => (
        <>
          <p className="mb-1 font-semibold">Remove “{name}”?</p>
          <p className="mb-3 text-ink-2">{stays}</p>
          {told && (
            <p className={`notice mb-3 ${agreed ? 'warn' : 'bad'}`} role="alert">
              {told.text}
            </p>
          )}
          <div className="flex gap-2">
            {(told === null || agreed || told.status !== 409) && (
              <button type="button" className="btn btn-primary btn-sm" disabled={busy} onClick={() => void remove()}>
                {agreed ? 'Remove it all the same' : 'Remove it'}
              </button>
            )}
            <button type="button" className="btn btn-ghost btn-sm" onClick={close}>
              Keep it
            </button>
          </div>
        </>
      )}
    </Popover>
  );
}
