import { useState } from 'react';
import { bound } from '../../components/bound.ts';
import { Choice, Tick } from '../../components/fields.tsx';
import {
  count,
  firstWishes,
  type ImportView,
  type ImportWishes,
  peopleToBring,
  whatWillHappen,
} from './import-view.ts';

/** What is to be done with the people in the file, and the button that does it, asked once more. */
export function ImportStart({
  view,
  listId,
  onStart,
}: {
  view: ImportView;
  /** The list this import was begun for; empty for none. */
  listId: string;
  onStart: (wishes: ImportWishes) => void;
}) {
  const [wishes, setWishes] = useState(() => firstWishes(view, listId));
  const [asking, setAsking] = useState(false);
  const wish = (change: Partial<ImportWishes>) => setWishes({ ...wishes, ...change });
  const of = bound(wishes, wish);
  const list = view.lists.find(({ id }) => id === wishes.listId);
  const people = count(peopleToBring(view, wishes.withDuplicates));
  const button = wishes.workflowId ? `Run it for ${people} people` : `Record ${people} people`;
  return (
    <div className="mb-3 rounded-lg bg-base-200 p-3">
      <WhatToDo view={view} wishes={wishes} wish={wish} />
      {view.lists.length > 0 && (
        <div className="mb-2 flex flex-wrap items-center gap-2">
          <Choice
            label="Once all are in, put them on"
            block="block"
            small
            style={{ width: 220 }}
            value={list?.id ?? ''}
            onChange={(id) => wish({ listId: id })}
          >
            <option value="">no list</option>
            {view.lists.map(({ id, name }) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Choice>
          {list?.asks && (
            <Tick
              label="They have agreed already: do not ask them to confirm"
              block="flex items-center gap-2 text-note"
              {...of('proven')}
            />
          )}
          {list && (
            <span className="text-note text-ink-2">Who has left it stays off; its sequences begin for the others.</span>
          )}
        </div>
      )}
      {view.state === 'ready' && (view.counts?.duplicate ?? 0) > 0 && (
        <Tick label="Take rows of somebody who stands further up as well" {...of('withDuplicates')} />
      )}
      {asking ? (
        <div className="notice">
          <p className="mb-2">{whatWillHappen(view, wishes)}</p>
          <button type="button" className="btn btn-primary btn-sm mr-2" onClick={() => onStart(wishes)}>
            {button}
          </button>
          <button type="button" className="btn btn-ghost btn-sm" onClick={() => setAsking(false)}>
            Not now
          </button>
        </div>
      ) : (
        <button
          type="button"
          className="btn btn-primary btn-sm"
          disabled={people === '0'}
          onClick={() => setAsking(true)}
        >
          {view.state === 'stopped' ? `Go on with ${people} people` : `Bring in ${people} people`}
        </button>
      )}
    </div>
  );
}

/** Only recorded, or a workflow for each at a pace. */
function WhatToDo({
  view,
  wishes,
  wish,
}: {
  view: ImportView;
  wishes: ImportWishes;
  wish: (change: Partial<ImportWishes>) => void;
}) {
  return (
    <>
      <label className="mb-2 flex items-start gap-2">
        <input
          type="radio"
          className="radio radio-sm mt-0.5"
          name="what"
          checked={wishes.workflowId === ''}
          onChange={() => wish({ workflowId: '' })}
        />
        <span>
          Only record them
          <span className="block text-note text-ink-2">They become leads; nobody is written to.</span>
        </span>
      </label>
      <label className="mb-2 flex items-start gap-2">
        <input
          type="radio"
          className="radio radio-sm mt-0.5"
          name="what"
          checked={wishes.workflowId !== ''}
          disabled={view.workflows.length === 0}
          onChange={() => wish({ workflowId: view.workflows[0]?.id ?? '' })}
        />
        <span className="flex flex-wrap items-center gap-2">
          Run a workflow for each
          {wishes.workflowId !== '' && (
            <>
              <select
                className="select select-sm"
                style={{ width: 240 }}
                aria-label="Which workflow"
                value={wishes.workflowId}
                onChange={(event) => wish({ workflowId: event.target.value })}
              >
                {view.workflows.map(({ id, name }) => (
                  <option key={id} value={id}>
                    {name}
                  </option>
                ))}
              </select>
              at most
              <input
                className="input input-sm"
                style={{ width: 80 }}
                type="number"
                min={1}
                max={600}
                aria-label="People a minute"
                value={wishes.perMinute}
                onChange={(event) => wish({ perMinute: Number(event.target.value) })}
              />
              a minute, between 08:00 and 21:00
            </>
          )}
        </span>
      </label>
    </>
  );
}
