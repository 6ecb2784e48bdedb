import { Notice } from '../../client/Notice.tsx';
import type { Told } from '../../client/use-action.ts';
import { within } from '../../client/within.ts';

/** What can be done with something kept in versions: saved, sent out, removed; who uses it, and what went wrong. */
export function VersionButtons({
  what,
  version,
  draft,
  dirty,
  mayOut,
  out,
  usedBy,
  told,
  changes,
  onSave,
  onOut,
  onRemove,
  share,
}: {
  /** "form" */
  what: string;
  version: number;
  /** The newest version has not gone out: it is written anew, and not the one after it. */
  draft: boolean;
  dirty: boolean;
  mayOut: boolean;
  /** What going out is called: "Put it live". */
  out: string;
  usedBy: readonly string[];
  told: Told | null;
  changes: boolean;
  /** Null while what is there cannot be saved. */
  onSave: (() => void) | null;
  onOut: () => void;
  onRemove: () => void;
  /** Where its file is. */
  share: string;
}) {
  return (
    <>
      {changes && (
        <div className="grid gap-2">
          <button
            type="button"
            className="btn btn-plain btn-sm"
            disabled={!dirty || onSave === null}
            onClick={() => onSave?.()}
          >
            {dirty ? (draft ? 'Save it' : `Save it as version ${version + 1}`) : 'Saved'}
          </button>
          <button type="button" className="btn btn-primary btn-sm" disabled={!mayOut} onClick={onOut}>
            {out}
          </button>
          <a className="btn btn-ghost btn-sm" href={within(share)} download>
            Share the {what}
          </a>
          <button type="button" className="btn btn-ghost btn-sm text-error" onClick={onRemove}>
            Remove the {what}
          </button>
        </div>
      )}
      {usedBy.length > 0 && <p className="mt-2 text-note text-ink-2">Used by {usedBy.join(', ')}.</p>}
      <Notice told={told} className="mt-2 text-note" />
    </>
  );
}
