import { useContext, useState } from 'react';
import { bound } from '../../components/bound.ts';
import { FieldPickerContext } from '../../components/field-picker.ts';
import { Area, Choice, Line, Tick } from '../../components/fields.tsx';
import { WhatTheyGet } from '../../components/MessagePreview.tsx';
import { TextMeter } from '../../components/TextMeter.tsx';
import { TokenField } from '../../components/TokenField.tsx';
import { keyFromLabel, labelFromKey } from '../../core/fields/field.ts';
import { ANSWER_HINTS, ANSWER_KINDS, type AnswerKind } from '../../core/message/check-answer.ts';
import { readReference, writeReference } from '../../core/template/field-reference.ts';
import type { StepFormProps } from '../step-form.ts';
import type { AskSettings } from './definition.ts';

export default function AskForm({ stepId, settings, change, plan, sampleName }: StepFormProps<AskSettings>) {
  const of = bound(settings, change);
  const { fields } = useContext(FieldPickerContext);
  const planned = plan?.does === 'send' && plan.message.channel === 'text' ? plan.message.text : null;
  const byText = settings.by !== 'chat' || planned !== null;
  const kept = readReference(settings.saveAs);
  // A name being typed is in the fields at once, given by this very step: it stays in its line until another is chosen.
  const [named, setNamed] = useState<{ stepId: string; typed: string } | null>(null);
  const naming = named?.stepId === stepId ? named.typed : null;
  const known = fields.filter((field) => field.group === 'answers' && !(naming !== null && field.key === kept?.key));
  const isNew = naming !== null || kept === null || !known.some((pickableField) => pickableField.key === kept.key);
  return (
    <>
      <Choice
        label="Ask by"
        field="by"
        value={settings.by ?? 'text'}
        options={[
          ['text', 'Text'],
          ['chat', 'Chat; by text to who has not written there within 24 hours'],
        ]}
        onChange={(by) => change({ by })}
      />
      <TokenField label="The question" {...of('message')} />
      <Choice
        label="The answer has to be"
        value={settings.kind}
        options={Object.entries(ANSWER_KINDS) as [AnswerKind, string][]}
        onChange={(kind) =>
          // Words of our own go along with the kind; words of theirs stay.
          change({ kind, ...(settings.hint === ANSWER_HINTS[settings.kind] ? { hint: ANSWER_HINTS[kind] } : {}) })
        }
      />
      {settings.kind === 'choice' && (
        <Area label="Answers to choose from, one per line" {...of('choices')} rows={4} maxLength={2000} />
      )}
      {byText && <TextMeter text={planned ?? settings.message} exact={planned !== null} />}
      <Choice
        label="The answer is kept as"
        field="saveAs"
        value={isNew ? '' : settings.saveAs}
        options={[
          ['', 'A new answer, named below'],
          ...known.map((pickableField) => [writeReference(pickableField), pickableField.label] as const),
        ]}
        onChange={(saveAs) => {
          setNamed(saveAs === '' ? { stepId, typed: '' } : null);
          change({ saveAs });
        }}
      />
      {isNew && (
        <Line
          label="Its name"
          value={naming ?? (kept ? labelFromKey(kept.key) : '')}
          placeholder="Best day"
          maxLength={60}
          onChange={(label) => {
            setNamed({ stepId, typed: label });
            const key = keyFromLabel(label);
            change({ saveAs: key === '' ? '' : writeReference({ group: 'answers', key }) });
          }}
        />
      )}
      <Choice
        label="If the answer does not fit"
        value={String(settings.most)}
        options={[
          ['1', 'Do not ask again'],
          ['2', 'Ask again once'],
          ['3', 'Ask again, twice at most'],
          ['4', 'Ask again, three times at most'],
        ]}
        onChange={(most) => change({ most: Number(most) })}
      />
      {settings.most > 1 && <Line label="With these words" {...of('hint')} maxLength={500} />}
      <Choice
        label="An answer is waited for"
        value={String(settings.forDays)}
        options={[1, 2, 3, 7, 14, 30].map((n) => [String(n), n === 1 ? '1 day' : `${n} days`] as const)}
        onChange={(forDays) => change({ forDays: Number(forDays) })}
      />
      <Tick
        label={`Only with consent to ${settings.by === 'chat' ? 'chat messages' : 'texts'}`}
        {...of('needsConsent')}
      />
      <p className="text-note text-ink-2">
        Go on with the answer in a later moment: add one “When something happens: they answer a question”.
      </p>
      <WhatTheyGet plan={plan} name={sampleName} />
    </>
  );
}
