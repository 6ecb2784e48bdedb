import { useState } from 'react';
import { call } from '../../client/call.ts';
import { comeAnew } from '../../client/go-to.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { FileButton } from '../../components/FileButton.tsx';
import { Choice } from '../../components/fields.tsx';
import { sendFile } from '../../components/send-file.ts';

/** How long what came in is kept as it was sent, and reading a file of it again. */
export default function ArchiveTools({ keeps, choices }: { keeps: number | null; choices: readonly number[] }) {
  const [chosen, setChosen] = useState(String(keeps ?? ''));
  const { act, busy, told } = useAction();
  const shorter = chosen !== '' && (keeps === null || Number(chosen) < keeps);
  const save = () =>
    act(async () => {
      await call('PUT', '/api/archive', { keepsSentMonths: chosen === '' ? null : Number(chosen) });
      await comeAnew();
    });
  const read = (file: File) =>
    act(
      () => sendFile<{ done: string }>('/api/archive', file),
      ({ done }) => `${file.name}: ${done}`,
    );
  return (
    <div className="sheet-card mb-4 p-4">
      <div className="flex flex-wrap items-end gap-3">
        <Choice
          label="Keep what came in, as it was sent"
          value={chosen}
          options={[['', 'for good'], ...choices.map((months) => [String(months), `for ${months} months`] as const)]}
          onChange={setChosen}
        />
        <button
          type="button"
          className="btn btn-primary btn-sm mb-3"
          disabled={busy || chosen === String(keeps ?? '')}
          onClick={() => void save()}
        >
          Save how long
        </button>
        <span className="grow" />
        <span className="mb-3">
          <FileButton accept=".gz,.ndjson" disabled={busy} onFile={(file) => void read(file)} testid="archive-file">
            Read an archive file again
          </FileButton>
        </span>
      </div>
      {shorter && (
        <p className="notice mb-2">
          Older months go within the hour. Download those you want to keep first; without them nobody can be shown what
          exactly was sent, and what failed then cannot be handled again.
        </p>
      )}
      <Notice told={told} />
    </div>
  );
}
