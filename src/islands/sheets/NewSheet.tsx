import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';

/** Makes a sheet and opens it. */
export default function NewSheet() {
  return (
    <NameToMake
      label="Name of the new sheet"
      placeholder="Open day sign-in"
      button="Make a new sheet"
      make={async (name) => {
        const sheet = await call('POST', '/api/sheets', { name });
        location.assign(`/sheets/${sheet.id}`);
      }}
    />
  );
}
