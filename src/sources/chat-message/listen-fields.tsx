import { useEffect, useState } from 'react';
import { Area, Choice } from '../../components/fields.tsx';
import type { ChoicePage } from '../source-module.ts';
import { CHAT_WHENS, type ChatMessageSettings, type ChatWhen } from './listening.ts';

/** What of all that is said in chat comes in by this source. */
export function ListenFields({
  settings,
  forms,
  onChange,
}: {
  settings: Pick<ChatMessageSettings, 'when' | 'words' | 'form'>;
  forms: () => Promise<ChoicePage>;
  onChange: (patch: Partial<ChatMessageSettings>) => void;
}) {
  const { when, words, form } = settings;
  const [known, setKnown] = useState<{ id: string; label: string }[]>([]);
  useEffect(() => {
    if (when === 'form')
      forms().then(
        ({ choices }) => setKnown(choices),
        () => setKnown([]),
      );
  }, [when, forms]);
  return (
    <>
      <Choice<ChatWhen>
        label="What comes in by it"
        value={when}
        options={Object.entries(CHAT_WHENS) as [ChatWhen, string][]}
        onChange={(next) => onChange({ when: next })}
      />
      {(when === 'words' || when === 'button') && (
        <Area
          label={
            when === 'words'
              ? 'With one of these words, one per line'
              : 'One of these buttons, one per line; empty for any'
          }
          value={words}
          rows={2}
          maxLength={1000}
          onChange={(text) => onChange({ words: text })}
        />
      )}
      {when === 'form' && (
        <Choice
          label="Which form"
          value={form}
          options={[['', 'Any form'], ...known.map((one) => [one.id, one.label] as const)]}
          onChange={(next) => onChange({ form: next })}
        />
      )}
    </>
  );
}
