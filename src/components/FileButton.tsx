import type { ReactNode } from 'react';

/** A button by which a file is chosen, by keyboard too; the same one can be chosen again. */
export function FileButton({
  children,
  onFile,
  accept,
  looks = 'btn-plain btn-sm',
  disabled = false,
  testid,
}: {
  children: ReactNode;
  onFile(file: File): void;
  /** As the attribute of that name; everything where it is left out. */
  accept?: string;
  looks?: string;
  disabled?: boolean;
  testid?: string;
}) {
  return (
    <label className={`btn ${looks} cursor-pointer focus-within:outline-2 focus-within:outline-offset-2`}>
      {children}
      <input
        type="file"
        className="sr-only"
        {...(accept ? { accept } : {})}
        disabled={disabled}
        data-testid={testid}
        onChange={(event) => {
          const file = event.target.files?.[0];
          event.target.value = '';
          if (file) onFile(file);
        }}
      />
    </label>
  );
}

/** What a table may come as. */
export const TABLES = '.xlsx,.csv,.txt,.tsv';
