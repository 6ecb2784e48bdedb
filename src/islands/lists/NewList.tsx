import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';

/** Makes a list and opens it. */
export default function NewList() {
  return (
    <NameToMake
      label="Name of the new list"
      placeholder="Practice tips"
      button="Make a new list"
      make={async (name) => {
        const list = await call('POST', '/api/lists', { name });
        location.assign(`/lists/${list.id}`);
      }}
    />
  );
}
