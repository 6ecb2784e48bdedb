import { call } from '../../client/call.ts';
import { NameToMake } from '../../components/NameToMake.tsx';
import { blankBlock } from '../../core/email/layout.ts';

/** Makes an email template with the usual blocks in it and opens it. */
export default function NewTemplate() {
  return (
    <NameToMake
      label="Name of the new template"
      placeholder="Welcome"
      button="Make a new template"
      make={async (name) => {
        const blocks = (['heading', 'text', 'button', 'footer'] as const).map((kind) =>
          blankBlock(kind, crypto.randomUUID().slice(0, 8)),
        );
        const made = await call('POST', '/api/email-templates', {
          name,
          layout: { as: 'blocks', blocks },
        });
        location.assign(`/messages/templates/${made.id}`);
      }}
    />
  );
}
