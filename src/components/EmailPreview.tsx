import Monitor from 'lucide-react/icons/monitor';
import Smartphone from 'lucide-react/icons/smartphone';
import { useState } from 'react';

const WIDTHS = { phone: 375, desktop: 680 } as const;
type Width = keyof typeof WIDTHS;

/** An email as its reader sees it, at the width of a phone or of a desktop, made smaller where there is no room. */
export function EmailPreview({ html, room, height = 420 }: { html: string; room: number; height?: number }) {
  const [width, setWidth] = useState<Width>('phone');
  const scale = Math.min(1, room / WIDTHS[width]);
  return (
    <div>
      <fieldset className="mb-1.5 flex gap-1" aria-label="Width of the preview">
        {(['phone', 'desktop'] as const).map((one) => (
          <button
            key={one}
            type="button"
            className={`btn btn-xs ${one === width ? 'btn-active' : 'btn-ghost'}`}
            aria-pressed={one === width}
            onClick={() => setWidth(one)}
          >
            {one === 'phone' ? (
              <Smartphone className="size-3.5" aria-hidden="true" />
            ) : (
              <Monitor className="size-3.5" aria-hidden="true" />
            )}
            {one === 'phone' ? 'Phone' : 'Desktop'}
          </button>
        ))}
      </fieldset>
      <div
        className="overflow-hidden rounded-lg border border-base-300 bg-white"
        style={{ width: WIDTHS[width] * scale, height }}
      >
        <iframe
          title={`The email at the width of a ${width}`}
          // Nothing in it may run, and nothing it links to is opened.
          sandbox=""
          srcDoc={html}
          data-testid="email-preview"
          style={{
            width: WIDTHS[width],
            height: height / scale,
            border: 0,
            transform: `scale(${scale})`,
            transformOrigin: '0 0',
          }}
        />
      </div>
    </div>
  );
}
