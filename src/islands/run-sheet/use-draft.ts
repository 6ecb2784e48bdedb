import { useCallback, useEffect, useRef, useState } from 'react';
import { call, Problem } from '../../client/call.ts';
import type { Definition } from '../../core/workflow/definition.ts';
import type { Finding } from '../../core/workflow/finding.ts';

const PAUSE_MS = 400;
const KEEP = 100;

export type SaveState = 'saved' | 'saving' | 'unsaved' | 'elsewhere' | 'failed';

export interface Draft {
  draft: Definition;
  revision: number;
  saveState: SaveState;
  problem: string;
  canUndo: boolean;
  canRedo: boolean;
  /** Changes the sheet. Edits with the same `kind` in quick succession are undone together. */
  edit: (change: (before: Definition) => Definition, kind?: string) => void;
  undo: () => void;
  redo: () => void;
  /** Resolves when everything typed so far is stored, and fails when it could not be. */
  flush: () => Promise<void>;
  /** The revision that stands stored, also right after `flush`. */
  stored: () => number;
}

/** The draft of a run sheet: saved as it is typed, with undo and redo. */
export function useDraft(
  workflowId: string,
  first: { draft: Definition; revision: number },
  onFindings: (findings: Finding[]) => void,
): Draft {
  const [draft, setDraft] = useState(first.draft);
  const [revision, setRevision] = useState(first.revision);
  const [saveState, setSaveState] = useState<SaveState>('saved');
  const [problem, setProblem] = useState('');
  const [past, setPast] = useState<Definition[]>([]);
  const [future, setFuture] = useState<Definition[]>([]);
  const now = useRef({ draft: first.draft, revision: first.revision, dirty: false });
  const failed = useRef('');
  const lastEdit = useRef({ kind: '', at: 0, since: 0 });
  const timer = useRef<ReturnType<typeof setTimeout> | null>(null);
  const saving = useRef<Promise<void> | null>(null);

  const save = useCallback(async (): Promise<void> => {
    if (timer.current) clearTimeout(timer.current);
    timer.current = null;
    // One save at a time; what is typed meanwhile goes out with the next.
    while (saving.current) await saving.current;
    if (!now.current.dirty) return;
    now.current.dirty = false;
    setSaveState('saving');
    const work = (async () => {
      try {
        const saved = await call('PUT', `/api/workflows/${workflowId}`, {
          revision: now.current.revision,
          draft: now.current.draft,
        });
        now.current.revision = saved.revision;
        setRevision(saved.revision);
        onFindings(saved.findings);
        setProblem('');
        if (!now.current.dirty) setSaveState('saved');
      } catch (error) {
        now.current.dirty = true;
        const elsewhere = error instanceof Problem && error.code === 'edited-elsewhere';
        setSaveState(elsewhere ? 'elsewhere' : 'failed');
        failed.current = (error as Error).message;
        setProblem(failed.current);
        if (!elsewhere) timer.current = setTimeout(() => void save(), 3000);
      }
    })();
    saving.current = work;
    await work;
    saving.current = null;
  }, [workflowId, onFindings]);

  const put = useCallback(
    (next: Definition) => {
      now.current.draft = next;
      now.current.dirty = true;
      setDraft(next);
      setSaveState((state) => (state === 'elsewhere' ? state : 'unsaved'));
      if (timer.current) clearTimeout(timer.current);
      timer.current = setTimeout(() => void save(), PAUSE_MS);
    },
    [save],
  );

  const edit = useCallback<Draft['edit']>(
    (change, kind = '') => {
      const before = now.current.draft;
      const next = change(before);
      if (next === before) return;
      const at = Date.now();
      const { current: last } = lastEdit;
      // Letters typed in one go are undone together; a pause, or much put in or taken out at once, begins anew.
      const much = Math.abs(JSON.stringify(before).length - JSON.stringify(next).length) > 8;
      const together = kind !== '' && kind === last.kind && !much && at - last.at < 1000 && at - last.since < 5000;
      lastEdit.current = { kind, at, since: together ? last.since : at };
      if (!together) setPast((list) => [...list.slice(-KEEP), before]);
      setFuture([]);
      put(next);
    },
    [put],
  );

  const undo = useCallback(() => {
    const last = past.at(-1);
    if (!last) return;
    setPast(past.slice(0, -1));
    setFuture([now.current.draft, ...future]);
    lastEdit.current = { kind: '', at: 0, since: 0 };
    put(last);
  }, [past, future, put]);

  const redo = useCallback(() => {
    const [next, ...rest] = future;
    if (!next) return;
    setFuture(rest);
    setPast([...past, now.current.draft]);
    put(next);
  }, [past, future, put]);

  useEffect(() => {
    // Leaving with something unsaved: the browser asks, and a save is tried at once.
    const leaving = (event: BeforeUnloadEvent) => {
      if (!now.current.dirty) return;
      void save();
      event.preventDefault();
    };
    window.addEventListener('beforeunload', leaving);
    return () => window.removeEventListener('beforeunload', leaving);
  }, [save]);

  const flush = useCallback(async () => {
    await save();
    if (now.current.dirty) throw new Error(failed.current);
  }, [save]);

  return {
    draft,
    revision,
    saveState,
    problem,
    canUndo: past.length > 0,
    canRedo: future.length > 0,
    edit,
    undo,
    redo,
    flush,
    stored: useCallback(() => now.current.revision, []),
  };
}
