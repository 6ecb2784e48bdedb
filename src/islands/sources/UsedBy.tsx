import { within } from '../../client/within.ts';
/** The workflows that listen to a source. */
export function UsedBy({ workflows, onMake }: { workflows: readonly { id: string; name: string }[]; onMake(): void }) {
  return (
    <section className="sheet-card p-3.5" aria-label="Used by">
      <h2 className="mb-1 text-note text-ink-2">Used by</h2>
      {workflows.length === 0 && <p>No workflow listens yet.</p>}
      <ul>
        {workflows.map((workflow) => (
          <li key={workflow.id}>
            <a className="font-semibold hover:underline" href={within(`/workflows/${workflow.id}`)}>
              {workflow.name}
            </a>
          </li>
        ))}
      </ul>
      <button type="button" className="link mt-1 text-note" onClick={onMake}>
        {workflows.length === 0 ? 'Make a run sheet that listens to it' : 'Another run sheet that listens to it'}
      </button>
    </section>
  );
}
