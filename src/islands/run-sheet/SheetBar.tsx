import BellRing from 'lucide-react/icons/bell-ring';
import BookOpenText from 'lucide-react/icons/book-open-text';
import Drama from 'lucide-react/icons/drama';
import ListRestart from 'lucide-react/icons/list-restart';
import Pause from 'lucide-react/icons/pause';
import Play from 'lucide-react/icons/play';
import Redo2 from 'lucide-react/icons/redo-2';
import Undo2 from 'lucide-react/icons/undo-2';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import { Tool } from '../../components/Tool.tsx';
import type { Finding } from '../../core/workflow/finding.ts';
import type { SaveState } from './draft-keeper.ts';
import { ToCheck } from './ToCheck.tsx';

interface Props {
  workflow: SheetView['workflow'];
  /** The draft differs from what is live. */
  dirty: boolean;
  saveState: SaveState;
  findings: Finding[];
  canUndo: boolean;
  canRedo: boolean;
  onUndo: () => void;
  onRedo: () => void;
  onGo: (finding: Finding) => void;
  onRehearse: () => void;
  onRead: () => void;
  onLast: () => void;
  onPause: (paused: boolean) => void;
  onPutLive: () => void;
}

const SAVED: Record<SaveState, string> = {
  saved: 'Saved',
  saving: 'Saving …',
  unsaved: 'Saving …',
  elsewhere: 'Not saved',
  failed: 'Not saved yet',
};

/** The bar over the run sheet: its state, what to check, and what can be done with the whole of it. */
export function SheetBar({
  workflow,
  dirty,
  saveState,
  findings,
  canUndo,
  canRedo,
  onUndo,
  onRedo,
  onGo,
  onRehearse,
  onRead,
  onLast,
  onPause,
  onPutLive,
}: Props) {
  return (
    <div className="flex min-h-11 shrink-0 flex-wrap items-center gap-2 border-b border-base-300 bg-base-100 px-4 py-1.5">
      <StateOf workflow={workflow} dirty={dirty} />
      <span className="text-note text-ink-2" role="status" data-testid="save-state">
        {SAVED[saveState]}
      </span>
      <Tool label="Undo" title="Undo (Ctrl+Z)" large disabled={!canUndo} onClick={onUndo}>
        <Undo2 className="size-4" />
      </Tool>
      <Tool label="Redo" title="Redo (Ctrl+Shift+Z)" large disabled={!canRedo} onClick={onRedo}>
        <Redo2 className="size-4" />
      </Tool>
      <span className="grow max-lg:hidden" />
      <ToCheck findings={findings} onGo={onGo} />
      <button type="button" className="btn btn-ghost btn-sm" onClick={onRead}>
        <BookOpenText className="size-4" aria-hidden="true" />
        <span className="max-sm:sr-only">Read it to me</span>
      </button>
      <button type="button" className="btn btn-ghost btn-sm" onClick={onLast}>
        <ListRestart className="size-4" aria-hidden="true" />
        <span className="max-sm:sr-only">Rehearse the last 25</span>
      </button>
      <button type="button" className="btn btn-plain btn-sm" onClick={onRehearse}>
        <Drama className="size-4" aria-hidden="true" />
        Rehearse
      </button>
      {workflow.state === 'live' && (
        <button type="button" className="btn btn-plain btn-sm" onClick={() => onPause(true)}>
          <Pause className="size-4" aria-hidden="true" />
          Pause
        </button>
      )}
      {workflow.state === 'paused' && (
        <button type="button" className="btn btn-plain btn-sm" onClick={() => onPause(false)}>
          <Play className="size-4" aria-hidden="true" />
          Go on with version {workflow.liveVersion}
        </button>
      )}
      <button
        type="button"
        className="btn btn-primary btn-sm"
        disabled={!dirty && workflow.state === 'live'}
        onClick={onPutLive}
      >
        <BellRing className="size-4" aria-hidden="true" />
        {!dirty && workflow.state === 'live'
          ? `Version ${workflow.liveVersion} is live`
          : `Put version ${workflow.nextVersion} live`}
      </button>
    </div>
  );
}

function StateOf({ workflow, dirty }: { workflow: SheetView['workflow']; dirty: boolean }) {
  return (
    <>
      {workflow.state === 'live' && <span className="pill good">Live, version {workflow.liveVersion}</span>}
      {workflow.state === 'paused' && <span className="pill warn">Paused</span>}
      {workflow.state === 'draft' && <span className="pill">Draft</span>}
      {workflow.state !== 'draft' && dirty && <span className="pill warn">Edited since</span>}
    </>
  );
}
