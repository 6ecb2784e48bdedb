import { useState } from 'react';
import type { WorkflowRow } from '../../app/workflows/workflows.ts';
import { callAny } from '../../client/call.ts';
import { ToldLine } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Choice } from '../../components/fields.tsx';

/** What is copied: a workflow, or all there are. */
const ALL = 'all';

/** Chooses something of another business one belongs to, to be copied into this one: as it would be by a file. */
export function FromBusiness({
  others,
  busy,
  onChoose,
  onLeave,
}: {
  others: readonly { key: string; name: string }[];
  busy: boolean;
  /** Of which business, where its file is, and what it is called. */
  onChoose: (of: string, path: string, name: string) => Promise<unknown>;
  onLeave: () => void;
}) {
  const [of, setOf] = useState('');
  const [workflows, setWorkflows] = useState<Pick<WorkflowRow, 'id' | 'name'>[]>([]);
  const [chosen, setChosen] = useState('');
  const { act, busy: looking, told } = useAction();
  const business = others.find(({ key }) => key === of);
  const look = (key: string) => {
    setOf(key);
    setWorkflows([]);
    setChosen('');
    onLeave();
    if (key !== '') void act(async () => setWorkflows(await callAny<WorkflowRow[]>('GET', `/at/${key}/api/workflows`)));
  };
  return (
    <section
      className="sheet-card mb-4 flex max-w-3xl flex-wrap items-end gap-3 p-4"
      aria-label="From another of your businesses"
    >
      <Choice
        label="From another of your businesses"
        block="block min-w-56 grow"
        value={of}
        options={[['', 'Choose a business'] as const, ...others.map(({ key, name }) => [key, name] as const)]}
        onChange={look}
      />
      <Choice
        label="Workflow"
        block="block min-w-56 grow"
        value={chosen}
        disabled={workflows.length === 0}
        options={[
          [
            '',
            looking ? 'Looking …' : business && workflows.length === 0 ? 'There is none' : 'Choose a workflow',
          ] as const,
          ...(workflows.length > 1 ? [[ALL, `All ${workflows.length} of them`] as const] : []),
          ...workflows.map(({ id, name }) => [id, name] as const),
        ]}
        onChange={setChosen}
      />
      <button
        type="button"
        className="btn btn-primary btn-sm"
        disabled={busy || chosen === ''}
        onClick={() => {
          const path = chosen === ALL ? '/api/shares' : `/api/workflows/${chosen}/share`;
          const name = workflows.find(({ id }) => id === chosen)?.name;
          void onChoose(of, path, name ? `“${name}” of ${business!.name}` : `the workflows of ${business!.name}`);
        }}
      >
        Look at it
      </button>
      <ToldLine told={told} className="basis-full" />
    </section>
  );
}
