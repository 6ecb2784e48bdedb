import NameToMake from '../../components/NameToMake.tsx';
import { blankBlock } from '../../core/email/layout.ts';

const USUAL = ['heading', 'text', 'button', 'footer'] as const;

/** Makes an email template with the usual blocks in it and opens it. */
export default function NewTemplate() {
  return (
    <NameToMake
      label="Name of the new template"
      placeholder="Welcome"
      button="Make a new template"
      path="/api/email-templates"
      opens="/messages/templates/"
      more={() => ({
        layout: { as: 'blocks', blocks: USUAL.map((kind) => blankBlock(kind, crypto.randomUUID().slice(0, 8))) },
      })}
    />
  );
}
