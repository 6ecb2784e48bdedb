/** What has just been done, or could not be; after a rehearsal, the way to its other outcome. */
export function ToldBar({
  text,
  good,
  happens,
  onOther,
  onClose,
}: {
  text: string;
  good: boolean;
  /** Whether what is waited for happened in the rehearsal; null when nothing was rehearsed or waited for. */
  happens: boolean | null;
  onOther: () => void;
  onClose: () => void;
}) {
  return (
    <p className={`notice mx-4 my-2 flex items-center justify-between ${good ? 'good' : 'bad'}`} role="alert">
      <span className="grow">{text}</span>
      {happens !== null && (
        <button type="button" className="btn btn-plain btn-xs" onClick={onOther}>
          {happens ? 'What if nothing happens?' : 'What if it happens?'}
        </button>
      )}
      <button type="button" className="btn btn-ghost btn-xs" onClick={onClose}>
        Close
      </button>
    </p>
  );
}
