import Download from 'lucide-react/icons/download';
import Trash2 from 'lucide-react/icons/trash-2';
import Upload from 'lucide-react/icons/upload';
import { within } from '../../client/within.ts';
import { FileButton, TABLES } from '../../components/FileButton.tsx';
import { Tool } from '../../components/Tool.tsx';

/** What can be done with a sheet as a whole: rows from a file, the tab in sight as a file, and deleting it. */
export function SheetTools({ tabId, onFile, onDelete }: { tabId: string; onFile(file: File): void; onDelete(): void }) {
  return (
    <>
      <FileButton accept={TABLES} onFile={onFile}>
        <Upload className="size-4" aria-hidden="true" />
        Add rows from a file
      </FileButton>
      {(['csv', 'xlsx'] as const).map((format) => (
        <a key={format} className="btn btn-plain btn-sm" href={within(`/api/tabs/${tabId}/file?format=${format}`)}>
          <Download className="size-4" aria-hidden="true" />
          {format.toUpperCase()}
        </a>
      ))}
      <Tool label="Delete this sheet" large onClick={onDelete}>
        <Trash2 className="size-4" />
      </Tool>
    </>
  );
}
