import { useState } from 'react';
import type { SheetView } from '../../app/workflows/run-sheet.ts';
import { timeOfDay } from '../../core/words/time-of-day.ts';
import { rulesAloud } from '../../core/workflow/read-aloud.ts';
import type { Rules } from '../../core/workflow/rules.ts';
import { changeRules } from '../run-sheet/edits.ts';
import { useDraft } from '../run-sheet/use-draft.ts';
import { EndsEarly, QuietHours, SamePersonRule, WhenItFails } from './rule-parts.tsx';

/** The standing rules of a workflow. They are part of the draft, and hold from the next version put live. */
export default function RulesForm({ first }: { first: SheetView }) {
  const [, setFindings] = useState(first.findings);
  const { draft, saveState, problem, edit, undo, canUndo } = useDraft(first.workflow.id, first.workflow, setFindings);
  const { rules } = draft;
  const change = (patch: Partial<Rules>) => edit(changeRules(patch), `rules:${Object.keys(patch).join()}`);
  const tagName = (id: string) => first.catalogue.tags.find((tag) => tag.id === id)?.name ?? 'that is gone';
  return (
    <div className="h-full overflow-y-auto">
      <main className="mx-auto grid max-w-[1000px] gap-4 p-5 md:grid-cols-2">
        <div className="flex items-center gap-3 md:col-span-2">
          <h1 className="sr-only">Rules of {first.workflow.name}</h1>
          <p className="grow text-ink-2">Rules belong to the sheet: a change holds once it is put live.</p>
          <span className="text-note text-ink-2" role="status" data-testid="save-state">
            {saveState === 'saved' ? 'Saved' : problem || 'Saving …'}
          </span>
          <button type="button" className="btn btn-ghost btn-sm" disabled={!canUndo} onClick={undo}>
            Undo
          </button>
        </div>
        <SamePersonRule rules={rules} change={change} />
        <QuietHours rules={rules} change={change} />
        <EndsEarly rules={rules} change={change} catalogue={first.catalogue} />
        <WhenItFails rules={rules} change={change} catalogue={first.catalogue} />
        <section className="sheet-card p-4 md:col-span-2" aria-label="The rules, read to you">
          <h2 className="mb-1 text-part">In a sentence</h2>
          <p>
            {rulesAloud(rules, { tag: tagName, clock: (time) => timeOfDay(time, first.catalogue.locale) }).join(' ')}
          </p>
        </section>
      </main>
    </div>
  );
}
