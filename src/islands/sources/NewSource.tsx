import { useCallback, useMemo, useState } from 'react';
import type { KindView } from '../../app/sources/sources.ts';
import { call } from '../../client/call.ts';
import { within } from '../../client/within.ts';
import { KindIcon } from '../../components/icons.tsx';
import { sourceScreens } from '../../sources/forms.ts';
import type { FormConnection } from '../../sources/source-form.ts';
import { askChoices } from './ask-choices.ts';
import { SetupSteps } from './SetupSteps.tsx';

/** First what kind, then exactly what to listen to. */
export default function NewSource({
  kinds,
  connections,
  first,
}: {
  kinds: KindView[];
  connections: FormConnection[];
  /** The kind the page was asked for, if it was. */
  first: string | null;
}) {
  const [kind, setKind] = useState(first);
  const choices = useMemo(() => askChoices(kind), [kind]);
  const create = useCallback(async (input: Record<string, unknown>) => {
    const source = await call('POST', '/api/sources', input as { kind: string });
    // What it is for, a list for one, goes along.
    const asked = new URLSearchParams(location.search);
    asked.delete('kind');
    location.assign(within(`/sources/${source.id}?${asked}`));
  }, []);
  const chosen = kinds.find((kindView) => kindView.kind === kind);
  const Form = chosen && sourceScreens[chosen.kind]?.form;
  return (
    <>
      <SetupSteps at={chosen ? 2 : 1} />
      {!chosen && (
        <div className="grid grid-cols-2 gap-3">
          {kinds.map((kind) => (
            <button
              key={kind.kind}
              type="button"
              className="sheet-card flex items-start gap-3 p-3.5 text-left hover:bg-base-200"
              onClick={() => setKind(kind.kind)}
            >
              <span className="mt-0.5 grid size-8 shrink-0 place-items-center rounded-lg bg-slate-soft text-secondary">
                <KindIcon name={kind.icon} />
              </span>
              <span>
                <span className="block font-semibold">{kind.label}</span>
                <span className="text-note text-ink-2">{kind.about}</span>
              </span>
            </button>
          ))}
        </div>
      )}
      {chosen && Form && (
        <>
          <div className="mb-3 flex items-center gap-2">
            <KindIcon name={chosen.icon} />
            <h2 className="text-part whitespace-nowrap">{chosen.label}</h2>
            <span className="text-ink-2">{chosen.about}</span>
            <button type="button" className="btn btn-ghost btn-sm ml-auto shrink-0" onClick={() => setKind(null)}>
              Another kind
            </button>
          </div>
          <Form key={chosen.kind} connections={connections} choices={choices} create={create} />
        </>
      )}
    </>
  );
}
