import { bound } from '../../components/bound.ts';
import { ColleagueChoice } from '../../components/ColleagueChoice.tsx';
import { Choice } from '../../components/fields.tsx';
import { MessagePreview } from '../../components/MessagePreview.tsx';
import { TakesTurns } from '../../components/TakesTurns.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import type { StepFormProps } from '../step-form.ts';
import type { TellSettings } from './definition.ts';

export default function TellForm({ settings, change, catalogue, plan }: StepFormProps<TellSettings>) {
  const of = bound(settings, change);
  const first = settings.colleague === 'rota' ? settings.among[0] : settings.colleague;
  const who = catalogue.colleagues.find((colleague) => colleague.id === first);
  return (
    <>
      <ColleagueChoice
        label="Who is told"
        {...of('colleague')}
        catalogue={catalogue}
        nobody="Choose a colleague"
        rota
      />
      {settings.colleague === 'rota' && (
        <TakesTurns value={settings.among} catalogue={catalogue} onChange={(among) => change({ among })} />
      )}
      <Choice
        label="How"
        {...of('by')}
        options={[
          ['email', 'By email'],
          ['text', 'By text, to the phone they gave under Settings'],
        ]}
      />
      {settings.by === 'email' && <TokenField label="Subject" single {...of('subject')} />}
      <TokenField label="Message" {...of('message')} />
      <h3 className="mt-4 mb-1.5 font-sans text-note font-semibold text-ink-2">
        What {who?.name ?? 'the colleague'} gets
      </h3>
      <MessagePreview plan={plan} name={who?.name ?? ''} />
    </>
  );
}
