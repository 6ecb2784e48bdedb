import Download from 'lucide-react/icons/download';
import Trash2 from 'lucide-react/icons/trash-2';
import Upload from 'lucide-react/icons/upload';

/** What can be done with a sheet as a whole: rows from a file, the tab in sight as a file, and deleting it. */
export function SheetTools({ tabId, onFile, onDelete }: { tabId: string; onFile(file: File): void; onDelete(): void }) {
  return (
    <>
      <label className="btn btn-plain btn-sm">
        <Upload className="size-4" aria-hidden="true" />
        Add rows from a file
        <input
          type="file"
          className="sr-only"
          accept=".xlsx,.csv,.txt,.tsv"
          onChange={(event) => {
            const file = event.target.files?.[0];
            event.target.value = '';
            if (file) onFile(file);
          }}
        />
      </label>
      {(['csv', 'xlsx'] as const).map((format) => (
        <a key={format} className="btn btn-plain btn-sm" href={`/api/tabs/${tabId}/file?format=${format}`}>
          <Download className="size-4" aria-hidden="true" />
          {format.toUpperCase()}
        </a>
      ))}
      <button
        type="button"
        className="btn btn-ghost btn-sm btn-square"
        aria-label="Delete this sheet"
        title="Delete this sheet"
        onClick={onDelete}
      >
        <Trash2 className="size-4" aria-hidden="true" />
      </button>
    </>
  );
}
