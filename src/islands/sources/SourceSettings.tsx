import { useState } from 'react';
import type { SourceView } from '../../app/sources/sources.ts';
import { Line } from '../../components/fields.tsx';
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
        <Line label="Name of the source" value={name} required maxLength={100} onChange={setName} />
        {source.pull ? (
          <EveryChoice value={every} onChange={setEvery} atOnce={every === 0} />
        ) : (
          <Line
            label="Most arrivals taken in a minute"
            style={{ width: 128 }}
            value={most}
            type="number"
            min={1}
            max={60000}
            onChange={setMost}
            note="Above that the sender is told to come back in a moment, and nothing is taken."
          />
        )}
        <button className="btn btn-primary btn-sm" type="submit">
          Save the settings
        </button>
      </form>
      <div className="mt-3 max-w-xl">
        <RemoveButton
          what="source"
          name={source.name}
          stays="Its address ends at once. Leads and arrivals that came by it stay. It can be put back for 30 days, under Settings, Removed."
          path={`/api/sources/${source.id}`}
          to="/sources"
        />
      </div>
    </>
  );
}
