import { useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import RemoveButton from '../../components/RemoveButton.tsx';
import { EveryChoice } from '../../components/SetupForm.tsx';

/** Name, limits and schedule of a source. */
export function SourceSettings({
  source,
  onSave,
}: {
  source: SourceView;
  onSave: (change: Record<string, unknown>) => void;
}) {
  const [name, setName] = useState(source.name);
  const [most, setMost] = useState(String(source.mostPerMinute));
  const [every, setEvery] = useState(source.pull?.everyMinutes ?? 5);
  return (
    <>
      <form
        className="sheet-card max-w-xl p-4"
        onSubmit={(event) => {
          event.preventDefault();
          onSave({ name, mostPerMinute: Number(most), ...(source.pull ? { everyMinutes: every } : {}) });
        }}
      >
        <label className="mb-3 block">
          <span className="field-label">Name of the source</span>
          <input
            className="input"
            required
            maxLength={100}
            value={name}
            onChange={(event) => setName(event.target.value)}
          />
        </label>
        {source.pull ? (
          <EveryChoice value={every} onChange={setEvery} atOnce={every === 0} />
        ) : (
          <label className="mb-3 block">
            <span className="field-label">Most arrivals taken in a minute</span>
            <input
              className="input w-32"
              type="number"
              min={1}
              max={60000}
              value={most}
              onChange={(event) => setMost(event.target.value)}
            />
            <span className="block text-note text-ink-2">
              Above that the sender is told to come back in a moment, and nothing is taken.
            </span>
          </label>
        )}
        <button className="btn btn-primary btn-sm" type="submit">
          Save the settings
        </button>
      </form>
      <div className="mt-3 max-w-xl">
        <RemoveButton
          what="source"
          name={source.name}
          stays="Its address ends at once. Leads and arrivals that came by it stay."
          path={`/api/sources/${source.id}`}
          to="/sources"
        />
      </div>
    </>
  );
}
