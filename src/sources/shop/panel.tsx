import { useState } from 'react';
import { ByHand } from '../../components/ByHand.tsx';
import { FirstOne } from '../../components/FirstOne.tsx';
import type { SourcePanelProps } from '../source-form.ts';
import { ShopChoice, type ShopChoices, tidied } from './form.tsx';

export default function ShopPanel({ source, practiceUrl, change, ask }: SourcePanelProps) {
  const saved = source.settings as unknown as ShopChoices;
  const [value, setValue] = useState(saved);
  const changed = JSON.stringify(tidied(value)) !== JSON.stringify(tidied(saved));
  return (
    <>
      <ByHand source={source} ask={ask} />
      {source.arrivals === 0 && (
        <FirstOne practiceUrl={practiceUrl}>Sign up or order once in the shop; it appears here by itself.</FirstOne>
      )}
      <details className="sheet-card mb-4 px-4 py-3" open={changed}>
        <summary className="cursor-pointer font-semibold">What it listens for</summary>
        <div className="mt-3">
          <ShopChoice value={value} onChange={setValue} />
          <button
            type="button"
            className="btn btn-plain btn-sm"
            disabled={!changed || value.events.length === 0}
            onClick={() => void change({ ...tidied(value) })}
          >
            Listen like this from now on
          </button>
        </div>
      </details>
    </>
  );
}
