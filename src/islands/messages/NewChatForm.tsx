import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';

/** Makes a chat form and opens it. */
export default function NewChatForm() {
  return (
    <NameToMake
      label="Name of the new chat form"
      placeholder="First contact"
      button="Make a chat form"
      make={async (name) => {
        const made = await call('POST', '/api/chat-forms', { name });
        location.assign(`/messages/chat-forms/${made.id}`);
      }}
    />
  );
}
