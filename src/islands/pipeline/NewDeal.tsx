import { useState } from 'react';
import { call } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { AddPopover } from '../../components/AddPopover.tsx';
import { Line } from '../../components/fields.tsx';
import { LeadPicker, type PickedLead } from '../../components/LeadPicker.tsx';

/** Opens a deal by hand, in the first stage. */
export function NewDeal({ pipelineId, opened }: { pipelineId: string; opened: () => void }) {
  const [lead, setLead] = useState<PickedLead | null>(null);
  const [title, setTitle] = useState('');
  const [value, setValue] = useState('');
  const { act, busy, told } = useAction();
  const open = (close: () => void) =>
    act(async () => {
      if (!lead) return;
      await call('POST', '/api/deals', { leadId: lead.id, pipelineId, title, value });
      setLead(null);
      setTitle('');
      setValue('');
      close();
      opened();
    });
  return (
    <AddPopover what="New deal" buttonClass="btn btn-primary btn-sm" panelClass="w-80 p-3">
      {(close) => (
        <form
          onSubmit={(event) => {
            event.preventDefault();
            void open(close);
          }}
        >
          <LeadPicker label="Whose deal" value={lead} onChange={setLead} />
          <Line label="What it is about; empty for their name" value={title} maxLength={300} onChange={setTitle} />
          <Line label="Its value; empty for none" value={value} maxLength={40} placeholder="540" onChange={setValue} />
          <Notice told={told} className="mb-2 text-note" />
          <button type="submit" className="btn btn-primary btn-sm w-full" disabled={!lead || busy}>
            Open the deal
          </button>
        </form>
      )}
    </AddPopover>
  );
}
