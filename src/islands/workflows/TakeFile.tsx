import { useState } from 'react';
import type { ShareLook } from '../../app/share/look.ts';
import { call, callAny } from '../../client/call.ts';
import { Notice } from '../../client/Notice.tsx';
import { useAction } from '../../client/use-action.ts';
import { FileButton } from '../../components/FileButton.tsx';
import { FromBusiness } from './FromBusiness.tsx';
import { TakeShare } from './TakeShare.tsx';

/** Far more than any file of workflows has. */
const MOST_BYTES = 1_500_000;

/** Reads a file of workflows, shows what it holds and takes it. */
export default function TakeFile({ others }: { others: readonly { key: string; name: string }[] }) {
  const [read, setRead] = useState<{ file: unknown; look: ShareLook; name: string } | null>(null);
  const { act, busy, told, tell } = useAction();
  const open = (chosen: File) => {
    setRead(null);
    if (chosen.size > MOST_BYTES) return tell('That file is far too large to be one of workflows.', false);
    return act(async () => {
      const text = await chosen.text();
      const file = jsonOf(text);
      setRead({ file, look: await call('POST', '/api/shares/look', { file }), name: chosen.name });
    });
  };
  const copy = (of: string, path: string, name: string) =>
    act(async () => {
      const file = await callAny<unknown>('GET', `/at/${of}${path}`);
      setRead({ file, look: await call('POST', '/api/shares/look', { file }), name });
    });
  return (
    <>
      {others.length > 0 && <FromBusiness others={others} busy={busy} onChoose={copy} onLeave={() => setRead(null)} />}
      <FileButton accept=".json" disabled={busy} onFile={(file) => void open(file)} testid="share-file">
        Read a file
      </FileButton>
      <Notice told={told} className="mt-2" />
      {read && (
        <div className="mt-4">
          <h2 className="mb-2 text-part">In {read.name}</h2>
          <TakeShare key={read.name} file={read.file} look={read.look} button="Take what is in it" />
        </div>
      )}
    </>
  );
}

/** What is no JSON goes as it is: the answer says what is wrong with it. */
function jsonOf(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return text.slice(0, 1000);
  }
}
