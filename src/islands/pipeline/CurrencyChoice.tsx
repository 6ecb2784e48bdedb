import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { Line } from '../../components/fields.tsx';
import { Popover } from '../../components/Popover.tsx';

/** What the deals of a pipeline are counted in. Amounts stay the numbers they are. */
export function CurrencyChoice({
  pipelineId,
  currency,
  changed,
}: {
  pipelineId: string;
  currency: string;
  changed: () => void;
}) {
  const [typed, setTyped] = useState(currency);
  const { act, busy, told } = useAction();
  return (
    <Popover
      button={currency}
      label={`Counted in ${currency}: change it`}
      buttonClass="btn btn-ghost btn-sm text-ink-2"
      panelClass="w-72 p-3"
    >
      {(close) => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void act(async () => {
              await call('PUT', `/api/pipelines/${pipelineId}`, { currency: typed });
              close();
              changed();
            });
          }}
        >
          <Line
            label="Counted in"
            note="Three letters, like GBP, EUR or USD. The amounts stay the numbers they are."
            value={typed}
            maxLength={3}
            onChange={setTyped}
          />
          <Notice told={told} className="mb-2 text-note" />
          <button type="submit" className="btn btn-primary btn-sm w-full" disabled={busy}>
            Count in it
          </button>
        </form>
      )}
    </Popover>
  );
}
