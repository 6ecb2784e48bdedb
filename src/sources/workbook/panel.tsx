import { useEffect, useState } from 'react';
import { within } from '../../client/within.ts';
import { AddressPanel } from '../../components/AddressPanel.tsx';
import { CopyLine } from '../../components/CopyLine.tsx';
import { FileButton, TABLES } from '../../components/FileButton.tsx';
import { Choice } from '../../components/fields.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import { TabChoice } from '../tab-choice.tsx';
import type { FileView } from './file-view.ts';

interface Settings {
  tab: { name: string } | null;
  headerRow: number | null;
  columns: { id: string; name: string; index: number }[];
  identity: { by: 'position' } | { by: 'column'; column: string };
  fromRow: number;
  connectionId?: string;
  path?: string;
}

/** Hand a file in, say how its rows are told apart, and see what became of each file. */
export default function WorkbookPanel({ source, change, ask }: SourcePanelProps) {
  const settings = source.settings as unknown as Settings;
  const [files, setFiles] = useState<FileView[]>([]);
  const [told, setTold] = useState('');
  const [busy, setBusy] = useState(false);
  // biome-ignore lint/correctness/useExhaustiveDependencies: looked at again with each change of the source.
  useEffect(() => {
    let gone = false;
    ask<FileView[]>('GET', 'files').then(
      (list) => {
        if (!gone) setFiles(list);
      },
      () => {},
    );
    return () => {
      gone = true;
    };
  }, [source]);
  const upload = async (file: File) => {
    setBusy(true);
    setTold(`Uploading ${file.name} …`);
    const answer = await fetch(within(`/api/sources/${source.id}/files?name=${encodeURIComponent(file.name)}`), {
      method: 'POST',
      headers: { 'content-type': 'application/octet-stream' },
      body: file,
    }).catch(() => null);
    const said = (await answer?.json().catch(() => null)) as { detail?: string } | null;
    setTold(answer?.ok ? 'It is here and is being read.' : (said?.detail ?? 'It could not be uploaded. Try again.'));
    setFiles(await ask<FileView[]>('GET', 'files').catch(() => files));
    setBusy(false);
  };
  const example = `curl -X PUT --data-binary @contacts.xlsx ${source.address}`;
  return (
    <>
      <section className="sheet-card mb-4 p-4" aria-label="Files">
        <h2 className="mb-2 text-part">The file</h2>
        {settings.connectionId && (
          <p className="mb-2">
            <code className="font-mono text-xs">{settings.path}</code>, fetched when it has changed. Nothing is written
            there.
          </p>
        )}
        {!settings.connectionId && (
          <FileButton
            accept={TABLES}
            looks="btn-primary btn-sm mb-2"
            disabled={busy}
            testid="workbook-file"
            onFile={(file) => void upload(file)}
          >
            {files.length === 0 ? 'Upload the file' : 'Upload it again'}
          </FileButton>
        )}
        <p className="text-note text-ink-2" role="status">
          {told || 'XLSX or CSV. Only rows that were not in it before come through.'}
        </p>
        <ul className="mt-2">
          {files.map((file) => (
            <li key={file.id} className="border-t border-base-300 py-1.5 text-note">
              <span className="font-semibold">{file.name || 'dropped off by a script'}</span>{' '}
              <span className="text-ink-2">
                {file.state === 'new'
                  ? source.state === 'live'
                    ? 'being read …'
                    : 'is read once the source is live'
                  : file.state === 'read'
                    ? `${file.rows} rows, ${file.fresh} of them new`
                    : ''}
              </span>
              {file.problem && <span className="block text-error">{file.problem}</span>}
            </li>
          ))}
        </ul>
      </section>
      {settings.columns.length > 0 && (
        <section className="sheet-card mb-4 p-4" aria-label="How it is read">
          <h2 className="mb-2 text-part">How it is read</h2>
          {settings.tab && (
            <TabChoice
              ask={ask}
              chosen={settings.tab.name}
              onChoose={(tab) => void ask('POST', 'header', { tab }).then(() => location.reload())}
            />
          )}
          <label className="mb-2 block">
            <span className="field-label">Column names stand in row (0 for none)</span>
            <input
              className="input input-sm"
              style={{ width: 90 }}
              type="number"
              min={0}
              max={1000}
              defaultValue={settings.headerRow ?? 0}
              onBlur={(event) => {
                const row = Number(event.target.value) || null;
                if (row !== settings.headerRow) void ask('POST', 'header', { row }).then(() => location.reload());
              }}
            />
          </label>
          <Choice
            label="A row is the same row when it has the same"
            block="mb-2 block"
            small
            value={settings.identity.by === 'position' ? '' : settings.identity.column}
            onChange={(text) =>
              void change({
                identity: text ? { by: 'column', column: text } : { by: 'position' },
              })
            }
          >
            <option value="">place in the file (rows are only ever added below)</option>
            {settings.columns.map((column) => (
              <option key={column.id} value={column.id}>
                {column.name}
              </option>
            ))}
          </Choice>
          <label className="block">
            <span className="field-label">Begin at row</span>
            <input
              className="input input-sm"
              style={{ width: 110 }}
              type="number"
              min={1}
              defaultValue={settings.fromRow}
              onBlur={(event) => {
                const fromRow = Math.max(1, Number(event.target.value) || 1);
                if (fromRow !== settings.fromRow) void change({ fromRow });
              }}
            />
          </label>
        </section>
      )}
      {!settings.connectionId && (
        <AddressPanel
          source={source}
          ask={ask}
          about="A script can drop the file off here, by HTTP PUT. Whoever knows the address can."
        >
          <details className="mb-2">
            <summary className="cursor-pointer text-note text-ink-2">For example</summary>
            <div className="mt-1">
              <CopyLine text={example} what="Example" />
            </div>
          </details>
        </AddressPanel>
      )}
    </>
  );
}
