import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';

/** Makes a sequence of a list and opens it on the run sheet. */
export default function NewSequence({ listId, listName }: { listId: string; listName: string }) {
  return (
    <NameToMake
      label="Name of the new sequence"
      placeholder={`${listName}: welcome`}
      button="Make a sequence"
      make={async (name) => {
        const made = await call('POST', `/api/lists/${listId}/sequences`, { name });
        location.assign(`/workflows/${made.id}`);
      }}
    />
  );
}
