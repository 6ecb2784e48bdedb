import Copy from 'lucide-react/icons/copy';
import { useState } from 'react';

/** Something to copy elsewhere: an address, a secret, a piece of code. */
export function CopyLine({ text, what, testid }: { text: string; what: string; testid?: string }) {
  const [copied, setCopied] = useState(false);
  return (
    <div className="mb-2 flex gap-2">
      <code
        className="grow rounded-lg bg-base-200 px-2 py-1.5 font-mono text-xs break-all whitespace-pre-wrap"
        data-testid={testid}
      >
        {text}
      </code>
      <button
        type="button"
        className="btn btn-plain btn-sm btn-square"
        aria-label={copied ? `${what} copied` : `Copy the ${what.toLowerCase()}`}
        title={copied ? 'Copied' : `Copy the ${what.toLowerCase()}`}
        onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
      >
        <Copy className={`size-4 ${copied ? 'text-success' : ''}`} aria-hidden="true" />
      </button>
    </div>
  );
}
