import { useCallback, useEffect, useRef, useState } from 'react';
import { call, Problem } from '../../client/call.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';
import { DraftKeeper, type DraftState } from './draft-keeper.ts';

export interface Draft extends DraftState {
  /** Changes the sheet. Edits with the same `kind` in quick succession are undone together. */
  edit: (change: (before: Definition) => Definition, kind?: string) => void;
  undo: () => void;
  redo: () => void;
  /** Resolves when everything typed so far is stored, and fails when it could not be. */
  flush: () => Promise<void>;
  /** The revision that stands stored, also right after `flush`. */
  stored: () => number;
}

/** The draft of a run sheet on the screen: saved as it is typed, with undo and redo. */
export function useDraft(
  workflowId: string,
  first: { draft: Definition; revision: number },
  onFindings: (findings: Finding[]) => void,
): Draft {
  const found = useRef(onFindings);
  useEffect(() => {
    found.current = onFindings;
  });
  const show = useRef<(state: DraftState) => void>(() => {});
  const [keeper] = useState(
    () =>
      new DraftKeeper(first.draft, first.revision, {
        store: (revision, draft) => call('PUT', `/api/workflows/${workflowId}`, { revision, draft }),
        isElsewhere: (error) => error instanceof Problem && error.code === 'edited-elsewhere',
        changed: (state) => show.current(state),
        found: (findings) => found.current(findings),
        now: Date.now,
        later: (ms, what) => {
          const timer = setTimeout(what, ms);
          return () => clearTimeout(timer);
        },
      }),
  );
  const [state, setState] = useState(() => keeper.state());
  show.current = setState;

  useEffect(() => {
    // Leaving with something unsaved: the browser asks, and a save is tried at once.
    const leaving = (event: BeforeUnloadEvent) => {
      if (!keeper.unsaved) return;
      void keeper.save();
      event.preventDefault();
    };
    window.addEventListener('beforeunload', leaving);
    return () => window.removeEventListener('beforeunload', leaving);
  }, [keeper]);

  return {
    ...state,
    edit: useCallback<Draft['edit']>((change, kind) => keeper.edit(change, kind), [keeper]),
    undo: useCallback(() => keeper.undo(), [keeper]),
    redo: useCallback(() => keeper.redo(), [keeper]),
    flush: useCallback(() => keeper.flush(), [keeper]),
    stored: useCallback(() => keeper.state().revision, [keeper]),
  };
}
