import X from 'lucide-react/icons/x';
import { Bare } from './fields.tsx';
import { Tool } from './Tool.tsx';

/** What can be tapped under a chat message. */
export function ButtonList({
  buttons,
  most,
  longest,
  field,
  onChange,
}: {
  buttons: readonly string[];
  most: number;
  /** Characters of one. */
  longest: number;
  /** The name the "To check" list knows it by. */
  field?: string;
  onChange: (buttons: string[]) => void;
}) {
  return (
    <fieldset className="mb-3" data-field={field}>
      <legend className="field-label">Buttons; what is tapped comes back as a reply</legend>
      {buttons.map((button, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: buttons have no name of their own
        <div key={i} className="mb-1.5 flex gap-1">
          <Bare
            label={`Button ${i + 1}`}
            maxLength={longest}
            placeholder=""
            value={button}
            onChange={(typed) => onChange(buttons.map((button, at) => (at === i ? typed : button)))}
          />
          <Tool label={`Remove button ${i + 1}`} large onClick={() => onChange(buttons.filter((_, at) => at !== i))}>
            <X className="size-4" />
          </Tool>
        </div>
      ))}
      {buttons.length < most && (
        <button type="button" className="btn btn-ghost btn-xs" onClick={() => onChange([...buttons, ''])}>
          Add a button
        </button>
      )}
    </fieldset>
  );
}
