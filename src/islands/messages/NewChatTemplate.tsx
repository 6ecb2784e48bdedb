import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';

/** Makes a chat template and opens it. */
export default function NewChatTemplate() {
  return (
    <NameToMake
      label="Name of the new chat template"
      placeholder="Trial lesson: hello"
      button="Make a chat template"
      make={async (name) => {
        const made = await call('POST', '/api/chat-templates', { name });
        location.assign(`/messages/chat-templates/${made.id}`);
      }}
    />
  );
}
