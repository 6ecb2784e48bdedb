import type { Plan } from '../core/workflow/plan.ts';

/** What a step would do for the sample lead, in words; for kinds that send no message. */
export function PlanWords({ plan, name }: { plan: Plan | null; name: string }) {
  if (!plan) return <p className="text-note text-ink-2">Catch a sample lead to see what it would do.</p>;
  const good = 'words' in plan;
  return (
    <>
      <h3 className="mt-4 mb-1.5 font-sans text-note font-semibold text-ink-2">With {name}</h3>
      <p
        className={`rounded-lg px-3 py-2 text-note [overflow-wrap:anywhere] ${good ? 'bg-good-soft' : 'bg-warn-soft'}`}
        data-testid="preview"
      >
        {'words' in plan ? plan.words : 'why' in plan ? plan.why.text : ''}
      </p>
    </>
  );
}
