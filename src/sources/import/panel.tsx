import { useState } from 'react';
import { within } from '../../client/within.ts';
import { FileButton, TABLES } from '../../components/FileButton.tsx';
import type { SourcePanelProps } from '../source-form.ts';

/** Hands the file in. */
export default function ImportPanel({ source }: SourcePanelProps) {
  const [told, setTold] = useState('');
  const [busy, setBusy] = useState(false);
  const columns = (source.settings.columns as unknown[] | undefined)?.length ?? 0;
  const upload = async (file: File) => {
    setBusy(true);
    setTold(`Uploading ${file.name} …`);
    const answer = await fetch(within(`/api/sources/${source.id}/import/file?name=${encodeURIComponent(file.name)}`), {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    }).catch(() => null);
    const said = (await answer?.json().catch(() => null)) as { detail?: string } | null;
    setTold(
      answer?.ok
        ? 'It is here and is being read. You can leave this page.'
        : (said?.detail ?? 'It could not be uploaded. Try again.'),
    );
    setBusy(false);
  };
  if (source.state === 'live' && source.arrivals > 0) return null;
  return (
    <section className="sheet-card mb-4 p-4" aria-label="The file">
      <h2 className="mb-2 text-part">The file</h2>
      <FileButton
        accept={TABLES}
        looks="btn-primary btn-sm mb-2"
        disabled={busy}
        testid="import-file"
        onFile={(file) => void upload(file)}
      >
        {columns === 0 ? 'Choose the file' : 'Another file instead'}
      </FileButton>
      <p className="text-note text-ink-2" role="status">
        {told || 'XLSX or CSV, up to 200,000 rows. Nothing is written to anybody until you say so.'}
      </p>
    </section>
  );
}
