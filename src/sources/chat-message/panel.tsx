import { useCallback, useState } from 'react';
import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import type { ChoicePage } from '../source-module.ts';
import { ListenFields } from './listen-fields.tsx';
import type { ChatMessageSettings } from './listening.ts';

export default function ChatMessagePanel({ source, practiceUrl, change, ask }: SourcePanelProps) {
  const saved = source.settings as ChatMessageSettings;
  const [listen, setListen] = useState(saved);
  const [problem, setProblem] = useState('');
  const forms = useCallback(() => ask<ChoicePage>('GET', 'choices?of=forms'), [ask]);
  const changed = JSON.stringify(listen) !== JSON.stringify(saved);
  return (
    <>
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>Write to your number in chat once; it appears here by itself.</FirstOne>
      )}
      <section className="sheet-card mb-4 px-4 pt-3 pb-3">
        <ListenFields settings={listen} forms={forms} onChange={(patch) => setListen({ ...listen, ...patch })} />
        {problem && (
          <p className="notice bad mb-2" role="alert">
            {problem}
          </p>
        )}
        {changed && (
          <button
            type="button"
            className="btn btn-primary btn-sm"
            onClick={() => {
              setProblem('');
              change({ when: listen.when, words: listen.words, form: listen.form }).catch((error: unknown) =>
                setProblem(error instanceof Error ? error.message : String(error)),
              );
            }}
          >
            Listen to this from now on
          </button>
        )}
        <p className="mt-2 text-note text-ink-2">
          STOP, START and HELP are answered by themselves and come in by no source. Where the front door is kept, nobody
          comes in before they are through it.
        </p>
      </section>
    </>
  );
}
